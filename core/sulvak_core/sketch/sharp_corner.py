"""A corner between two lines, and what held at it told anew once it is blunt: rounded or chamfered."""

from __future__ import annotations

from dataclasses import dataclass

from .copies import copies_of, following, joined
from .edit import ties_of
from .model import XY, AnyEntity, Arc, Constraint, Dimension, Line, Point, Sketch, points_of
from .numbers import Numbers

SAME = 1e-7  # mm: no longer than that is no line


@dataclass
class Corner:
    """Two line ends at one place; ``far`` are the lines' other ends."""

    ends: tuple[str, str]
    far: tuple[str, str]
    at: XY
    toward: tuple[XY, XY]
    lengths: tuple[float, float]

    def turned(self) -> Corner:
        """The same with its other line first."""
        return Corner(self.ends[::-1], self.far[::-1], self.at, self.toward[::-1], self.lengths[::-1])


class Sharp:
    """What held at a sharp corner, told anew for a blunt one: also in copies that patterns make of the corner.

    ``places`` are where the ends of its lines go, ``backs`` (mm) from the corner, ``blunt`` is the arc or line between
    them. A line no longer than that is used up: it stays as it is, as construction.
    """

    def __init__(
        self,
        sketch: Sketch,
        corner: Corner,
        numbers: Numbers,
        backs: tuple[float, float],
        places: tuple[XY, XY],
        blunt: Arc | Line,
    ) -> None:
        self.before, self.corner, self.numbers = sketch, corner, numbers
        self.entities: list[AnyEntity] = []
        self._fresh: list[Constraint] = []
        self._told = 0
        self._whole: dict[str, str] = {}
        lines = [end.split(".")[0] for end in corner.ends]
        taken = zip(lines, corner.lengths, backs, strict=True)
        self.used_up = [i for i, size, back in taken if size <= back + SAME]
        self.blunt_ends = [
            far if line in self.used_up else end for line, end, far in zip(lines, corner.ends, corner.far, strict=True)
        ]
        # the end of what is used up still stands at the sharp corner
        self._point = next((e for e, line in zip(corner.ends, lines, strict=True) if line in self.used_up), "")
        shortened: list[AnyEntity] = []
        for e in sketch.entities:
            if e.id in self.used_up:
                e = e.model_copy(update={"construction": True})
            elif e.id in lines:
                k = lines.index(e.id)
                e = e.model_copy(update={corner.ends[k].split(".")[1]: places[k]})
            shortened.append(e)
        fresh: list[AnyEntity] = [blunt]
        if not self._point and self._ends_of_copies_tied():
            fresh.append(Point(id=self._new_point(), at=corner.at, construction=True))
        after = sketch.model_copy(update={"entities": [*shortened, *fresh]})
        self.after, twins = joined(following(after, lines), numbers.new, lines, fresh)
        self._points: dict[str, str] = {}
        for t in [{i: i for i in (*lines, self._point)}, *twins]:
            at = t.get(self._point) or self._at_end_of_copy(t)
            for line, end in zip(lines, corner.ends, strict=True):
                if at:
                    self._points[f"{t[line]}.{end.split('.')[1]}"] = at

    def _at_end_of_copy(self, twin: dict[str, str]) -> str:
        line, _, end = self._point.partition(".")
        return f"{twin[line]}.{end}" if end else ""

    def _ends_of_copies_tied(self) -> bool:
        """Whether something hangs on a copy of the corner."""
        ends = {
            f"{copy}.{end.split('.')[1]}"
            for end in self.corner.ends
            for copy in copies_of(self.before, end.split(".")[0])
        }
        return any(ends & set(t.refs) for t in ties_of(self.before))

    def sketch_with(self, constraints: list[Constraint], dimensions: list[Dimension]) -> Sketch:
        """The sketch with its corner blunt, and these ties."""
        patterns = [p.model_copy(update={"about": self._new(p.about)}) if p.about else p for p in self.after.patterns]
        return self.after.model_copy(
            update={
                "entities": [*self.after.entities, *self.entities],
                "constraints": [*constraints, *self.taken()],
                "dimensions": dimensions,
                "patterns": patterns,
                "used": self.numbers.top,
            }
        )

    def _new_point(self) -> str:
        self._point = self.numbers.new("p")
        for end in self.corner.ends:
            refs = [self._point, end.split(".")[0]]
            self._fresh.append(Constraint(id=self.numbers.new("k"), kind="coincident", refs=refs))
        return self._point

    def point(self) -> str:
        """The sharp corner as a point on both lines, made when first asked for."""
        if not self._point:
            self.entities.append(Point(id=self._new_point(), at=self.corner.at, construction=True))
        return self._point

    def whole(self, line: str) -> str:
        """A construction line as long as the line was with its corner, running the same way."""
        if line in self.used_up:
            return line
        if line not in self._whole:
            far = next(f for f in self.corner.far if f.split(".")[0] == line)
            ident = self.numbers.new("l")
            self._whole[line] = ident
            start = next(at for e in self.before.entities for r, at in points_of(e).items() if r == far)
            onward = far.endswith(".p")
            p, q = (start, self.corner.at) if onward else (self.corner.at, start)
            self.entities.append(Line(id=ident, p=p, q=q, construction=True))
            for refs in (
                [f"{ident}.{'p' if onward else 'q'}", far],
                [f"{ident}.{'q' if onward else 'p'}", self.point()],
            ):
                self._fresh.append(Constraint(id=self.numbers.new("k"), kind="coincident", refs=refs))
        return self._whole[line]

    def taken(self) -> list[Constraint]:
        """Ties made since ``constraints`` was asked for."""
        fresh, self._told = self._fresh[self._told :], len(self._fresh)
        return fresh

    def constraints(self) -> list[Constraint]:
        found: list[Constraint] = []
        told: set[tuple[str, frozenset[str]]] = set()
        lines = {e.split(".")[0] for e in self.corner.ends}
        for c in self.before.constraints:
            if c.kind == "coincident" and set(c.refs) == set(self.corner.ends):
                joint = self._joint(c)
                told.update((j.kind, frozenset(j.refs)) for j in joint)
                found += joint
                continue
            if c.kind in ("equal", "midpoint", "symmetric"):
                refs = [self.whole(r) if r in lines and not self._is_axis(c, r) else self._new(r) for r in c.refs]
            else:
                refs = [self._new(r) for r in c.refs]
            said = (c.kind, frozenset(refs))
            if len(said[1]) == len(refs) and said not in told:
                told.add(said)
                found.append(c.model_copy(update={"refs": refs}) if refs != c.refs else c)
        return found + self.taken()

    def _joint(self, joint: Constraint) -> list[Constraint]:
        """What becomes of the tie that joins the two lines."""
        if len(self.used_up) == 2:
            return [joint]
        if not self.used_up:
            return []
        (other,) = {e.split(".")[0] for e in self.corner.ends} - set(self.used_up)
        return [joint.model_copy(update={"refs": [self._point, other]})]

    @staticmethod
    def _is_axis(c: Constraint, ref: str) -> bool:
        return c.kind == "symmetric" and ref == c.refs[2]

    def dimensions(self) -> list[Dimension]:
        found = []
        lines = {e.split(".")[0] for e in self.corner.ends}
        for d in self.before.dimensions:
            refs = [self._new(r) for r in d.refs]
            if d.kind == "distance" and len(refs) == 1 and refs[0] in lines and refs[0] not in self.used_up:
                far = next(f for f in self.corner.far if f.split(".")[0] == refs[0])
                refs = [far, self.point()]
            found.append(d.model_copy(update={"refs": refs}) if refs != d.refs else d)
        return found

    def _new(self, ref: str) -> str:
        if ref in self._points:
            return self._points[ref]
        return self.point() if ref in self.corner.ends else ref
