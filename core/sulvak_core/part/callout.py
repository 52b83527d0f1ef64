"""Callouts: numbered requirements read from a sheet, and what in the part they are tied to."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Text = Annotated[str, Field(max_length=200)]
StepId = Annotated[str, Field(pattern=r"^s[0-9]{1,6}$")]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Link(Strict):
    """What in the part a callout is the source of: a sketch's dimension, or a step's field."""

    step: StepId
    field: Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,40}$")]


Origins = Annotated[list[Annotated[str, Field(max_length=400)]], Field(min_length=1, max_length=50)]


class Spot(Strict):
    """A place on the part that is measured: a face by its origins, an edge by those of the two faces it lies between, a
    corner by an edge that ends there, or a whole body. ``near`` (mm) and ``ring`` (the origins around a face) tell
    pieces apart."""

    kind: Literal["face", "edge", "corner", "body"]
    body: Annotated[str, Field(max_length=40)] = ""
    origins: Annotated[list[Origins], Field(max_length=2)] = Field(default_factory=list)
    ring: Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=200)] = Field(default_factory=list)
    near: tuple[float, float, float] | None = None


class Gauged(Strict):
    """What a callout is measured by on the finished part: the ``figure`` of that name on one place, or between two."""

    spots: list[Spot] = Field(min_length=1, max_length=2)
    figure: Text


GONE = "—"  # what a newer issue of a sheet says where nothing stands any more


class Callout(Strict):
    """A numbered requirement read from the sheet. ``at`` is its balloon's place on the page, 0…1 from the top left. It
    feeds what it has a ``link`` to; without one it can be ``gauged`` between places of the part. ``unit`` is that of
    its bare numbers; without one they are in the part's. One that is ``worked`` out is arithmetic over others by their
    ids (``b4 - b5 - b5``), whatever its text. ``newer``: what a newer issue of its sheet says in
    its place, until that is taken or left; “—” where nothing stands there any more."""

    id: Annotated[str, Field(pattern=r"^b[0-9]{1,6}$")]
    number: Annotated[int, Field(ge=1, le=9999)]
    text: Text
    page: Annotated[int, Field(ge=0, le=999)] = 0
    at: tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]] | None = None
    link: Link | None = None
    gauged: Gauged | None = None
    unit: Literal["mm", "in"] | None = None
    worked: Text = ""
    newer: Text = ""


Share = tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]]
Side = Literal["front", "top", "right", "left", "under", "back"]
