"""The sizes of a part that can be changed by themselves, and the part with some of them changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..part.errors import Refusal
from ..part.expressions import names_in
from ..steps.commands import SetExpression
from ..steps.effects import apply
from ..steps.registry import Document
from ..steps.value_table import value_table

Sort = Literal["length", "angle", "number"]


@dataclass(frozen=True)
class Size:
    """A size by the place of its expression: ``step`` (None: a named value) and ``path``. ``value`` in mm, degrees or
    plain; ``callout``: the id of the one it is from; ``field``: what a callout's link knows it by."""

    step: str | None
    path: str
    what: str
    kind: Sort
    expr: str
    value: float
    callout: str | None = None

    @property
    def key(self) -> str:
        """Names it among the part's sizes."""
        return f"{self.step or ''}:{self.path}"

    def text(self, value: float) -> str:
        """The expression of another value."""
        return f"{value!r} mm" if self.kind == "length" else f"{value!r} deg" if self.kind == "angle" else f"{value:g}"


def sizes(document: Document) -> list[Size]:
    """The sizes that drive and do not follow others, of steps that are built; in the order of the table of values."""
    built = {s.id for s in document.built()}
    found = []
    for row in value_table(document):
        of_built = row["step"] is None or row["step"] in built
        if row["driving"] and of_built and row["value"] is not None and not names_in(row["expr"]):
            what = row["name"] or row["what"]
            size = Size(row["step"], row["path"], what, row["kind"], row["expr"], row["value"], row["callout"])
            found.append(size)
    return found


def by_key(document: Document, key: str) -> Size:
    """Raises Refusal where there is no such size any more."""
    found = next((s for s in sizes(document) if s.key == key), None)
    if found is None:
        raise Refusal("This size is no longer in the part, or follows others now; choose it again.")
    return found


def changed(document: Document, values: Mapping[Size, float]) -> Document:
    """The part with sizes at other values (mm, degrees or plain). Raises Refusal where a sketch cannot follow."""
    for size, value in values.items():
        command = SetExpression(step=size.step, path=size.path, expr=size.text(value))
        document = apply(document, command).document
    return document


def data_of(size: Size) -> dict[str, object]:
    """A size as plain data, with its key."""
    return {**vars(size), "key": size.key}
