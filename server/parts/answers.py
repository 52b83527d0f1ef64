"""What the API answers of parts: the shapes of its JSON."""

from typing import Any, Literal
from uuid import UUID

from ninja import Schema

from sulvak_core.part.errors import Detail, Offers
from sulvak_core.sketch.model import Dimension
from sulvak_core.steps.registry import Document


class RegionOut(Schema):
    path: str
    around: list[str]
    at: tuple[float, float]
    area: float
    default: bool


class SketchOut(Schema):
    """A sketch's state: freedom, loose entities, closed regions, what its dimensions measure, ties in words."""

    freedom: int
    loose: list[str]
    said: str
    regions: list[RegionOut]
    open_ends: list[tuple[float, float]]
    letters: dict[str, str]
    area: float
    measures: dict[str, float]
    words: dict[str, str]


class CalloutOut(Schema):
    """``hole``: the fields of a hole step that the callout asks for; empty when it is no hole's. ``came``: how a
    worked-out one came about."""

    kind: str
    said: str
    typed: str
    hole: dict[str, str]
    came: str


class HistoryOut(Schema):
    version: int
    kind: str
    what: str
    who: str
    at: str
    name: str = ""


class PartOut(Schema):
    id: UUID
    workspace: int
    version: int
    settled: int  # goes up where sketches went along with the part without a new version
    role: str | None
    undoes: HistoryOut | None  # what undo would take back
    redoes: HistoryOut | None  # the undoing that redo would take back
    can_undo: bool
    can_redo: bool
    document: Document
    sketches: dict[str, SketchOut]
    callouts: dict[str, CalloutOut]
    lost: list[Dimension] = []  # sizes that went with the last command, as reference sizes
    said: list[str] = []


class RefusedOut(Schema):
    """What was asked is not done: a sentence, and what a screen can act on."""

    sentence: str
    detail: Detail


class PartChangesOut(Schema):
    """What a change made of a part: ``patch`` is a JSON patch (RFC 6902) of its document, sketches and callouts as they
    were at the version that the change was asked for."""

    version: int
    settled: int
    role: str | None
    undoes: HistoryOut | None
    redoes: HistoryOut | None
    can_undo: bool
    can_redo: bool
    patch: list[dict[str, Any]]
    lost: list[Dimension] = []
    said: list[str] = []


class FaceOut(Schema):
    origins: list[str]
    ring: list[str]
    near: tuple[float, float, float]
    said: str
    measure: str
    kind: str
    normal: tuple[float, float, float] | None
    area: float


class EdgeOut(Schema):
    """``near``: its middle; ``corner``: how its two faces meet, inside, outside or smooth; empty for seams."""

    faces: list[int]
    kind: str
    length: float
    radius: float | None
    near: tuple[float, float, float] = (0.0, 0.0, 0.0)
    corner: str = ""


class BodyOut(Schema):
    key: str
    id: str
    title: str
    colour: str
    faces: list[FaceOut]
    edges: list[EdgeOut]
    triangles: int


class FrameOut(Schema):
    origin: tuple[float, float, float]
    x: tuple[float, float, float]
    y: tuple[float, float, float]
    normal: tuple[float, float, float]


class StepOut(Schema):
    id: str
    number: int
    state: str
    sentence: str
    said: str
    volume_change: float | None
    mass_change: float | None
    offers: Offers
    frame: FrameOut | None
    extra: dict[str, Any] = {}


class BodyMassOut(Schema):
    id: str
    title: str
    material: str
    volume: float
    area: float
    centre: list[float]
    mass: float | None
    inertia: list[list[float]] | None
    box: list[list[float]] | None = None  # builds of before have none


class TargetOut(Schema):
    grams: float
    tolerance: float


class MassOut(Schema):
    """mm, mm², mm³, g, g·mm²."""

    bodies: list[BodyMassOut]
    volume: float
    area: float
    centre: list[float]
    mass: float | None
    inertia: list[list[float]] | None
    box: list[list[float]] | None = None
    target: TargetOut | None
    within: bool | None


class VerdictOut(Schema):
    callout: str
    number: int
    state: str
    said: str
    measured: float | None
    nominal: float | None
    lower: float
    upper: float
    count: int | None
    faces: list[tuple[str, int]] = []


class BuildOut(Schema):
    """The newest finished build; ``version`` -1 where there is none yet. ``ready`` says whether it is of the part's
    present version, and all of it is there."""

    version: int
    ready: bool
    broken: str = ""
    pending: bool = False  # the shape and its figures are there, what is proven is not yet
    troubles: list[str] = []
    steps: list[StepOut] = []
    mass: MassOut | None = None
    callouts: list[VerdictOut] = []
    bodies: list[BodyOut] = []


class StateOut(Schema):
    bodies: list[BodyOut]


class AdviceOut(Schema):
    """What the order adviser says of a step. ``command`` does it; ``volume`` (mm³) and ``grams`` is what the part would
    gain by it."""

    step: str
    kind: str
    said: str
    command: dict[str, Any] | None
    label: str
    volume: float | None
    grams: float | None
    about: list[str]


class PlaceOut(Schema):
    """Where a step could stand: before a step (null: at the end), what the part would gain, which steps would fail."""

    before: str | None
    now: bool
    volume: float
    grams: float | None
    failing: list[str]


class KindOut(Schema):
    """A kind of step: see sulvak_core.steps.kind.StepKind."""

    makes: Literal["bodies", "sketch", "guide", "names"]
    called: str
    source: Literal["", "regions", "points", "lines"]
    downwards: bool
    repeatable: bool
    takes: dict[str, str]


class CatalogueOut(Schema):
    """Kinds of step: what starts them, the parts of their sentences, thread sizes for holes."""

    kinds: dict[str, KindOut]
    starts: list[dict[str, Any]]
    sentences: dict[str, list[dict[str, Any]]]
    sizes: list[str]
