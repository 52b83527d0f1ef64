"""The drawing of a part: made from it as it is, each time anew, with what was chosen by hand in its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import shapely

from ..inspect.mass import grams
from ..inspect.model_lines import SIDES, Model
from ..part.callout import Side
from ..part.drawing_sheet import DrawingSheet
from ..part.errors import Refusal
from ..part.units import mass_text
from ..rebuild.engine import Build
from ..sheet.general_tolerance import read as read_general
from ..sheet.requirement import Requirement
from ..solid.frame import dot, plus, scaled
from ..solid.project import Flat
from ..steps.registry import Document
from . import title_block
from .anchors import Anchor, Anchors, Linear, Round
from .arrange import INSET, Block, arranged
from .asked import Asked, AskedSizes, Asker
from .best_view import assigned, chosen
from .centre_lines import centre_lines
from .looks import Drawn, Look, drawn, isometric, run
from .paper import PAPERS, SCALES, SERIES, XY, Box, Dimension, Ink, Stroke, Word, merged, overlap, ratio, scaled_curve
from .placing import Field, place
from .sections import details_of, sections_of, trace
from .size_shapes import Placed, Wanted
from .view_sizes import size_in

NEVER = 5.0  # a part is not drawn larger than that by itself
PLACE = 10.0  # mm between views at least, with one row of sizes
TITLE = 5.0  # of the letters of a section's title


@dataclass(frozen=True)
class DrawnView:
    """A view on the paper (mm): where the part's origin lies, how many times as large as the part, the boxes around the
    part and around all that belongs to it."""

    name: str
    seat: str
    title: str
    at: XY
    scale: float
    outline: Box
    extent: Box


@dataclass(frozen=True)
class DrawnSize:
    """A size on the paper; see ``placing.Placed`` and ``asked.Asked``. ``proven``: the part has it so."""

    key: str
    text: str
    view: str
    number: int | None
    proven: bool
    said: str
    ink: Ink
    boxes: tuple[Box, ...]
    hits: int
    side: int
    at: XY
    along: XY | None
    span: XY
    dimension: Dimension | None


@dataclass
class DrawnSheet:
    """A whole drawing. ``ink`` is all but the sizes; ``left_out``: sizes that no view shows; ``lost``: sizes added by
    hand whose places are gone, with the reason."""

    paper: str
    size: XY
    scale: str
    third: bool
    ink: Ink
    views: list[DrawnView] = field(default_factory=list)
    sizes: list[DrawnSize] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    lost: dict[str, str] = field(default_factory=dict)
    hidden: list[dict[str, str]] = field(default_factory=list)  # sizes taken off by hand: key and text
    unmeasured: list[str] = field(default_factory=list)  # sizes of sketches that no face shows, with why

    def overlaps(self) -> int:
        """How often letters of sizes lie on something, or views on one another or on the title block."""
        extents = [v.extent for v in self.views]
        block = title_block.block_box(self.size)
        views = sum(overlap(a, b) for i, a in enumerate(extents) for b in [*extents[i + 1 :], block])
        return views + sum(s.hits for s in self.sizes)


def draw(document: Document, build: Build, owner: str = "") -> DrawnSheet:
    """The drawing of a part as it is built. Raises Refusal where there is no solid, or it fits on no paper."""
    return _Draughtsman(document, build, owner).draw()


class _Draughtsman:
    def __init__(self, document: Document, build: Build, owner: str) -> None:
        if not build.state.bodies:
            raise Refusal("There is no solid yet to draw; extrude a profile first.")
        self.document, self.build, self.owner = document, build, owner
        self.settings: DrawingSheet = document.drawing
        self.third = document.projection == "third"
        self.shapes = [b.shape for b in build.state.bodies]
        asker = Asker(document, build)
        self.faces = asker.prover.faces
        self.asked: AskedSizes = asker.all()
        anchors = Anchors(document, build, asker.prover)
        self.anchors: dict[str, Anchor] = {}
        self.by_key: dict[str, Asked] = {}
        told: set[tuple[object, ...]] = set()
        for a in self.asked.sizes:
            anchor = anchors.of(a)
            hidden = a.key in self.settings.sizes and self.settings.sizes[a.key].hidden
            if anchor is None or hidden:
                continue
            same = _same(anchor, a.requirement)
            if same in told and a.number is None and not a.by_hand:
                continue  # said already by another
            told.add(same)
            self.anchors[a.key], self.by_key[a.key] = anchor, a
        self.left_out = [
            a.text for a in self.asked.sizes if a.key not in self.by_key and a.number is not None and not self._hid(a)
        ]
        self.known_blocks: dict[float, tuple[list[Block], list[Block], dict[str, Ink]]] = {}
        self._views()

    def _hid(self, a: Asked) -> bool:
        return a.key in self.settings.sizes and self.settings.sizes[a.key].hidden

    # -- which views -----------------------------------------------------------------------------------------

    def _views(self) -> None:
        sides: dict[Side, Drawn] = {s: drawn(self.shapes, Look(s, *SIDES[s])) for s in SIDES}
        looks = chosen(list(self.anchors.values()), sides, self.third, self.settings.main, self.settings.views)
        known = {d.look.towards + d.look.right: d for d in sides.values()}
        self.projected: list[Drawn] = []
        for look in looks:
            there = known.get(look.towards + look.right)
            made = Drawn(look, there.seen, there.smooth, there.hidden) if there else drawn(self.shapes, look)
            self.projected.append(made)
        if not self.settings.hidden_lines:
            for d in self.projected:
                d.hidden = []
        self.model = Model(self.shapes)
        self.sections = sections_of(self.model, self.settings.sections)
        self.pictorial = drawn(self.shapes, isometric(looks[0])) if self.settings.isometric else None
        by_hand = {k: p.view for k, p in self.settings.sizes.items() if p.view}
        self.home = assigned(self.anchors, [*self.projected, *self.sections], by_hand)
        self.left_out += [self.by_key[k].text for k in self.anchors if k not in self.home]

    # -- on which paper, how large ---------------------------------------------------------------------------

    def draw(self) -> DrawnSheet:
        s = self.settings
        series = SERIES[self.document.unit]
        papers = series if s.paper == "auto" else (s.paper,)
        largest = max(max(d.box[2] - d.box[0], d.box[3] - d.box[1]) for d in self.projected)
        scales = [s.scale] if s.scale else [t for t in SCALES if ratio(t) <= NEVER]
        best: DrawnSheet | None = None
        for name, text in self._tries(papers, scales):
            size = PAPERS[name] if not s.portrait else PAPERS[name][::-1]
            if largest * ratio(text) > max(size):
                continue
            made = self._try(name, size, text, ratio(text))
            if made is not None and (best is None or made.overlaps() < best.overlaps()):
                best = made
            if best is not None and not best.overlaps():
                break
        if best is not None:
            return best
        if s.scale:
            raise Refusal(
                "The drawing does not fit on its paper at this scale; choose larger paper or a smaller scale."
            )
        raise Refusal("The drawing fits on no paper at any scale; leave views or sizes out.")

    def _tries(self, papers: Sequence[str], scales: Sequence[str]) -> Iterator[tuple[str, str]]:
        """Papers and scales in the order in which they are tried: full size or larger on small paper, then half size
        and smaller, then whatever takes it."""
        told: set[tuple[str, str]] = set()
        for least, of in ((1.0, papers[:3]), (0.5, papers[:4]), (0.2, papers), (0.0, papers)):
            for name in of:
                for text in scales:
                    if (ratio(text) >= least or self.settings.scale) and (name, text) not in told:
                        told.add((name, text))
                        yield name, text

    def _room(self, k: float, area: Box) -> bool:
        """Whether the views alone find room, with a row of sizes at one side of each."""
        row = [d for d in self.projected if d.look.seat in ("main", "left", "right", "rear")]
        column = [d for d in self.projected if d.look.seat in ("main", "above", "below")]
        wide = sum((d.box[2] - d.box[0]) * k + PLACE for d in row)
        high = sum((d.box[3] - d.box[1]) * k + PLACE for d in column)
        return wide <= area[2] - area[0] + PLACE and high <= area[3] - area[1] + PLACE

    def _try(self, name: str, size: XY, text: str, k: float) -> DrawnSheet | None:
        third = self.third
        area = title_block.frame(size)
        area = (area[0] + INSET, area[1] + INSET, area[2] - INSET, area[3] - INSET)
        if not self._room(k, area):
            return None
        notes = self._notes()
        kept = [title_block.block_box(size)]
        if notes:
            kept.append(title_block.notes_box(size, notes))
        projected, free, traces = self._blocks(k)
        free = [*free]
        free += [
            self._plain(d, k * t) for d, t in details_of(self.settings.details, [*self.projected, *self.sections], k)
        ]
        by_hand = self.settings.places
        pictures: list[list[Block]] = [[]]
        if self.pictorial is not None:
            pictures = [[self._plain(self.pictorial, k * f)] for f in (1.0, 0.5)]
        blocks: list[Block] | None = None
        for extra in pictures:
            if arranged(projected, [*free, *extra], area, kept, third, by_hand):
                blocks = [*projected, *free, *extra]
                break
        if (
            blocks is None
            and self.pictorial is not None
            and k < 1
            and arranged(projected, free, area, kept, third, by_hand)
        ):
            blocks = [*projected, *free]  # so large a part that there is no room for a picture
        if blocks is None:
            return None
        return self._sheet(name, size, text, blocks, notes, traces)

    def _blocks(self, k: float) -> tuple[list[Block], list[Block], dict[str, Ink]]:
        """Views in projection and sections with their sizes, and the cutting lines in each."""
        if k not in self.known_blocks:
            traces = {d.look.name: self._traces(d, k) for d in (*self.projected, *self.sections)}
            projected = [self._block(d, k, traces[d.look.name]) for d in self.projected]
            free = [self._block(d, k, traces[d.look.name]) for d in self.sections]
            self.known_blocks[k] = (projected, free, traces)
        return self.known_blocks[k]

    def _traces(self, d: Drawn, k: float) -> Ink:
        ink = Ink()
        for s in self.sections:
            if self._carries(s, d):
                ink.add(trace(s, d, k))
        for det in self.settings.details:
            if det.of == d.look.name:
                c, r = (det.centre[0] * k, det.centre[1] * k), det.radius * k
                ink.strokes.append(Stroke("SIZES", Flat("circle", {"c": c}, r)))
                ink.words.append(Word(det.letter, (c[0] + 0.71 * r + 2.5, c[1] + 0.71 * r + 0.5), TITLE))
        return ink

    def _carries(self, s: Drawn, d: Drawn) -> bool:
        """A cutting line is drawn in one view only: the first in which its plane is seen as a line."""
        return next((p for p in self.projected if p.look.level(s.look.towards)), None) is d

    def _block(self, d: Drawn, k: float, traces: Ink) -> Block:
        outline = _scaled(d.box, k)
        sizes: list[Wanted] = []
        for key, view in self.home.items():
            if view is d:
                made = size_in(d, self.by_key[key], self.anchors[key], k, self.settings.balloons)
                if made is not None:
                    sizes.append(made)
        lines = [shapely.LineString([(x * k, y * k) for x, y in run(c)]) for c in (*d.seen, *d.cut, *d.hidden)]
        lines += [shapely.LineString(run(s.curve)) for s in traces.strokes]
        axes = centre_lines(d, self.faces, k)
        lines += [shapely.LineString(run(s.curve)) for s in axes.strokes]
        around = Field(lines, outline, fixed=[shapely.Polygon(w.corners(0.4)) for w in traces.words])
        placed = place(sizes, around, self.settings.sizes)
        boxes = [outline, *(p.extent() for p in placed), *_boxes(axes), *_boxes(traces)]
        extent = merged(boxes)
        if d.look.title:
            extent = (extent[0], extent[1], extent[2], extent[3] + TITLE + 5)
        return Block(d, k, outline, extent, placed)

    def _plain(self, d: Drawn, k: float) -> Block:
        outline = _scaled(d.box, k)
        extent = (
            outline if not d.look.title else (outline[0] - 1, outline[1] - 1, outline[2] + 1, outline[3] + TITLE + 5)
        )
        return Block(d, k, outline, extent, [])

    def _sheet(
        self, name: str, size: XY, text: str, blocks: Sequence[Block], notes: Sequence[str], traces: Mapping[str, Ink]
    ) -> DrawnSheet:
        ink = title_block.furniture(size, self._titles(name, text), self.third)
        ink.add(title_block.written_notes(size, notes))
        sheet = DrawnSheet(name, size, text, self.third, ink, left_out=self.left_out, lost=self.asked.lost)
        sheet.unmeasured = self.asked.unmeasured
        sheet.hidden = [{"key": a.key, "text": a.text} for a in self.asked.sizes if self._hid(a)]
        for b in blocks:
            d, k = b.drawn, b.scale
            own = Ink()
            layers = (
                ("OUTLINE", d.seen),
                ("CUT", d.cut),
                ("LINING", d.lining),
                ("HIDDEN", d.hidden if d.look.name != "iso" else []),
            )
            for layer, found in layers:
                own.strokes += [Stroke(layer, scaled_curve(c, k)) for c in found]  # type: ignore[arg-type]
            if d.look.name != "iso" and not d.look.name.startswith("detail"):
                own.add(centre_lines(d, self.faces, k))
            own.add(traces.get(d.look.name, Ink()))
            if d.look.title:
                own.words.append(Word(d.look.title, ((b.outline[0] + b.outline[2]) / 2, b.extent[3] - TITLE), TITLE))
            ink.add(own.moved(b.at))
            sheet.views.append(
                DrawnView(d.look.name, d.look.seat, d.look.title, b.at, k, b.on_paper(b.outline), b.on_paper())
            )
            for p in b.placed:
                sheet.sizes.append(self._size(p, b))
        order = {key: i for i, key in enumerate(self.by_key)}  # callouts by their numbers, then the route's sizes
        sheet.sizes.sort(key=lambda s: order[s.key])
        return sheet

    def _size(self, p: Placed, b: Block) -> DrawnSize:
        asked = self.by_key[p.key]
        x, y = b.at
        boxes = tuple((g.bounds[0] + x, g.bounds[1] + y, g.bounds[2] + x, g.bounds[3] + y) for g in p.boxes)
        return DrawnSize(
            key=p.key,
            text=asked.text,
            view=b.name,
            number=asked.number,
            proven=asked.proven,
            said=asked.verdict.said,
            ink=p.ink.moved(b.at),
            boxes=boxes,
            hits=p.hits,
            side=p.side,
            at=p.at,
            along=p.along,
            span=p.span,
            dimension=p.dimension.moved(b.at) if p.dimension else None,
        )

    # -- words -----------------------------------------------------------------------------------------------

    def _notes(self) -> list[str]:
        unit = "mm" if self.document.unit == "mm" else "INCHES"
        found = [f"ALL SIZES IN {unit}"]
        found += [n for n in (*self.asked.notes, *self.settings.notes) if n and n not in found]
        return found

    def _titles(self, paper: str, scale: str) -> title_block.Titles:
        d = self.document
        weight = grams(d, self.build.state)
        return title_block.Titles(
            title=d.name.upper(),
            number=d.number,
            revision=d.revision,
            material=d.material,
            mass=mass_text(weight, d.mass_unit) if weight is not None else "",
            scale=scale,
            sheet=f"{paper}  1/1",
            owner=self.owner.upper(),
            general_tolerance=d.general_tolerance if read_general(d.general_tolerance, d.unit) else "",
        )


def _same(anchor: Anchor, r: Requirement) -> tuple[object, ...]:
    """Alike for sizes that say the same of the same place."""
    if isinstance(anchor, Linear):
        way = anchor.way if max(anchor.way, key=abs) > 0 else scaled(anchor.way, -1.0)
        at = sorted(round(dot(way, f.points[0]), 4) for f in (anchor.a, anchor.b))
        return ("linear", *(round(v, 5) for v in way), *at)
    if isinstance(anchor, Round):
        (centre, radius), n = anchor.rings[0], anchor.axis
        across = plus(centre, scaled(n, -dot(centre, n)))
        return (r.kind, *(round(v, 3) for v in across), *(round(abs(v), 5) for v in n), round(radius, 4))
    return (anchor,)


def _scaled(box: Box, k: float) -> Box:
    return box[0] * k, box[1] * k, box[2] * k, box[3] * k


def _boxes(ink: Ink) -> list[Box]:
    found: list[Box] = []
    for s in ink.strokes:
        xs, ys = zip(*run(s.curve), strict=True)
        found.append((min(xs), min(ys), max(xs), max(ys)))
    for w in ink.words:
        xs, ys = zip(*w.corners(), strict=True)
        found.append((min(xs), min(ys), max(xs), max(ys)))
    return found
