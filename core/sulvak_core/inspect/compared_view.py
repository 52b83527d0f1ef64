"""One view of a sheet laid on the part and held against it, line by line."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..part.document import Side
from ..sheet.page import Box, Page
from ..sheet.views import SheetView
from ..solid.frame import cross, plus, scaled
from ..solid.outline import Lines
from .model_lines import SIDES, XYZ, CutStep, Seen
from .runs import apart, pieces, run_length
from .walks import Walks, by_kind

Array = NDArray[np.float64]
XY = tuple[float, float]

ALIKE = 0.006  # of its size that a view's outline may differ from the part's and be of the same side
PIECES = 400  # told of each kind


@dataclass(frozen=True)
class Piece:
    """A run of a line, as shares of the page; ``length`` in mm of the part."""

    kind: Literal["seen", "hidden"]
    points: list[XY]
    length: float


@dataclass
class Compared:
    """One view held against the part. ``origin``: where the part's origin lies, in shares of the page; ``turn``: by how
    many degrees the view is turned clockwise. Lengths in mm."""

    box: tuple[float, float, float, float]
    side: Side | None
    turn: int = 0
    mm: float = 0.0
    origin: XY = (0.0, 0.0)
    drawn: dict[str, float] = field(default_factory=lambda: {"seen": 0.0, "hidden": 0.0})
    explained: dict[str, float] = field(default_factory=lambda: {"seen": 0.0, "hidden": 0.0})
    edges: float = 0.0  # of the part that are seen from there
    shown: float = 0.0  # of these on the sheet
    unexplained: list[Piece] = field(default_factory=list)
    missing: list[Piece] = field(default_factory=list)
    model: list[Piece] = field(default_factory=list)  # the part's own lines, to be laid over the sheet
    by_hand: bool = False  # it was placed by hand: laid over, not compared
    name: str = ""  # of a section: its letters
    cut: float | None = None  # where the plane lies that cuts it, along the part's own axis
    cuts: list[float] = field(default_factory=list)  # of a cut in steps: all its planes, in the order they come
    inclined: float | None = None  # cut by a plane at that angle (degrees) on a view that it is square to
    partly: bool = False  # only a part of it is cut: a half section, or broken out
    projected: bool = True  # it stands to the others as the part has it, in the angle of projection asked for


@dataclass
class Place:
    """How a view lies on the page: part in mm (right, up) → page in points."""

    side: Side
    turn: int
    mm: float
    at: XY  # of the part's origin, points
    cut: float | None = None
    steps: tuple[CutStep, ...] = ()

    @property
    def seen(self) -> Seen:
        return Seen(self.side, self.cut, self.steps)

    def to_part(self, p: Array) -> Array:
        """Places on the page as places in the view's own coordinates, mm."""
        c, s = quarter(self.turn)
        x, y = p[:, 0] - self.at[0], p[:, 1] - self.at[1]
        return np.stack([(c * x + s * y) * self.mm, (s * x - c * y) * self.mm], axis=1)

    def to_page(self, p: Array) -> Array:
        c, s = quarter(self.turn)
        x, y = p[:, 0] / self.mm, -p[:, 1] / self.mm
        return np.stack([self.at[0] + c * x - s * y, self.at[1] + s * x + c * y], axis=1)


def quarter(turn: int) -> tuple[int, int]:
    """Cosine and sine of a turn by quarters."""
    return {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}[turn]


def axes(c: Compared) -> tuple[XYZ, XYZ, XYZ]:
    """What of the part points to the right and up on the page in a view from a side, and towards who looks."""
    assert c.side is not None
    towards, right = SIDES[c.side]
    up = cross(towards, right)
    cos, sin = quarter(c.turn)
    # turned clockwise, what pointed to the right points down
    return plus(scaled(right, cos), scaled(up, sin)), plus(scaled(up, cos), scaled(right, -sin)), towards


def page_box(page: Page, c: Compared) -> Box:
    """The box of a view on the page, in points."""
    w, h = page.size
    return c.box[0] * w, c.box[1] * h, c.box[2] * w, c.box[3] * h


def fitted(view: SheetView, box: tuple[float, float, float, float], mm: float | None) -> Place | None:
    """How lines lie that are as wide and as high as a view, told by their box (left, low, right, high; mm) alone; None
    where they are not. ``mm``: of them, a point; None where that is taken from their sizes."""
    left, top, right, bottom = view.box
    a, b, c, d = box
    own = mm or math.sqrt((c - a) * max(d - b, 1e-9) / (max(right - left, 1e-9) * max(bottom - top, 1e-9)))
    play = ALIKE * max(c - a, d - b) + 0.05
    if own <= 0 or abs((right - left) * own - (c - a)) > play or abs((bottom - top) * own - (d - b)) > play:
        return None
    at = ((left + right) / 2 - (a + c) / 2 / own, (top + bottom) / 2 + (b + d) / 2 / own)
    return Place("front", 0, own, at)


def shares(page: Page, view: SheetView) -> tuple[float, float, float, float]:
    """The box of a view in shares of the page."""
    w, h = page.size
    return view.box[0] / w, view.box[1] / h, view.box[2] / w, view.box[3] / h


def share_run(page: Page, points: Array) -> list[XY]:
    """Places on the page in shares of it."""
    w, h = page.size
    return [(round(float(x) / w, 6), round(float(y) / h, 6)) for x, y in points]


def compared(
    page: Page, view: SheetView, model: Lines, asked: Lines, place: Place, tolerance: float, walks: Walks
) -> Compared:
    """``model``: the lines that explain what is drawn; ``asked``: those that the view is to show. What comes back has
    lengths only, until ``walks`` makes it whole."""
    near = tolerance / place.mm  # points
    origin = share_run(page, np.array([place.at]))[0]
    made = Compared(
        shares(page, view),
        place.side,
        place.turn,
        place.mm,
        origin,
        cut=place.seen.coordinate(),
        cuts=place.seen.planes(),
    )
    edges = walks.model(model, tolerance)
    step = edges.step / place.mm
    sheet = walks.view(view, step)
    off_part: dict[Literal["seen", "hidden"], list[Array]] = {}
    for kind, _ in by_kind(view):
        drawn = sheet[kind]
        # an outline is explained by an edge that is seen; a hidden line may lie before one too
        explaining = edges.edges if kind == "seen" else (*edges.edges, edges.hidden)
        off = apart(place.to_part(drawn.at), explaining, tolerance, edges.step)
        off_part[kind] = [r for runs in pieces(drawn, drawn.at, off, near) for r in runs]
        length = float(drawn.lengths.sum())
        made.drawn[kind] = length * place.mm
        made.explained[kind] = (length - sum(map(run_length, off_part[kind]))) * place.mm
    shown = walks.model(asked, tolerance).seen
    at = place.to_page(shown.at)
    off = apart(at, sheet.values(), near, step)
    off_sheet = [r for runs in pieces(shown, at, off, near) for r in runs]
    made.edges = float(shown.lengths.sum())
    made.shown = made.edges - sum(map(run_length, off_sheet)) * place.mm

    def told() -> None:
        def told_of(kind: Literal["seen", "hidden"], runs: list[Array]) -> list[Piece]:
            return [Piece(kind, share_run(page, r), run_length(r) * place.mm) for r in runs]

        made.unexplained = [p for kind, runs in off_part.items() for p in told_of(kind, runs)]
        made.missing = told_of("seen", off_sheet)
        for found in (made.unexplained, made.missing):
            found.sort(key=lambda p: -p.length)
            del found[PIECES:]
        behind = model.hidden if place.cut is None else []  # a section is drawn without what it hides
        made.model = told_of("seen", [place.to_page(np.array(r)) for r in model.seen])
        made.model += told_of("hidden", [place.to_page(np.array(r)) for r in behind])

    walks.told_later(made, told)
    return made
