"""The sizes a drawing of a part states: its callouts, then what its sketches and steps say that no callout speaks of.

Each is written in the notation of callouts and measured on the finished solid before it is taken: a drawing states
nothing that the part does not show.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, fields

from ..inspect.prove import Prover, Verdict
from ..inspect.prove_sketch import EXACT, ShownFace
from ..part.callout import Callout, Link
from ..part.drawing_sheet import AddedSize
from ..part.units import MM_PER, in_unit, number
from ..rebuild.engine import Build
from ..rebuild.hole import Sizes as HoleSizes
from ..rebuild.hole import callout as hole_callout
from ..rebuild.tooling import StepFailure
from ..sheet.notation import parse
from ..sheet.requirement import Requirement
from ..steps import walk
from ..steps.kinds.chamfer import ChamferStep
from ..steps.kinds.hole import HoleStep
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import AnyStep, Document, names
from ..steps.shared import read_callout
from ..steps.sheet_effects import hole_asked

DECIMALS = 4
LENGTHS = ("depth", "back", "wall", "thickness", "spacing", "second_spacing", "height")
HOLE = "diameter"  # the field that a hole's whole callout hangs on


@dataclass(frozen=True)
class Asked:
    """A size to be drawn. ``key`` names it for good; ``faces`` that show it; ``link`` or ``spots`` where it is from;
    ``number`` of its balloon; ``proven``: whether the part has it so."""

    key: str
    text: str
    requirement: Requirement
    verdict: Verdict
    callout: Callout
    faces: tuple[ShownFace, ...] = ()
    number: int | None = None

    @property
    def by_hand(self) -> bool:
        """Whether it was added by hand."""
        return self.key[0] == "a"

    @property
    def proven(self) -> bool:
        return self.verdict.state in ("proven", "reference")


@dataclass
class AskedSizes:
    """``sizes`` to be drawn, ``notes`` the sheet's callouts that are no sizes, ``lost``: keys of sizes added by hand
    whose places are gone, with the reason."""

    sizes: list[Asked] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    lost: dict[str, str] = field(default_factory=dict)
    unmeasured: list[str] = field(default_factory=list)  # sizes of sketches that no face of the part shows, with why


class Asker:
    """Works out what a part's drawing states."""

    def __init__(self, document: Document, build: Build) -> None:
        self.document, self.build = document, build
        self.prover = Prover(document, build)
        self.by_place = {place: f for f in self.prover.faces for place in [self.prover.places[id(f)]]}

    def all(self) -> AskedSizes:
        found = AskedSizes()
        taken = self._callouts(found)
        for link, texts in self._own(taken):
            made = self._first_true(f"{link.step}.{link.field}", texts, link)
            if made is not None:
                found.sizes.append(made)
            elif link.step in self.prover.users:  # a sketch of which something was made
                verdict = self.prover.verdict(Callout(id="b999999", number=9999, text=texts[-1], link=link))
                found.unmeasured.append(f"{texts[-1]} ({verdict.said})")
        for added in self.document.drawing.added:
            self._added(added, found)
        return found

    def _callouts(self, found: AskedSizes) -> set[tuple[str, str]]:
        """Takes the callouts; gives the (step, field) they speak of."""
        taken: set[tuple[str, str]] = set()
        for c in sorted(self.document.callouts, key=lambda c: c.number):
            r = read_callout(self.document, c)
            if r.kind == "note" or r.nominal is None:
                found.notes.append(c.text)
                continue
            text = c.text or number(r.nominal / (1.0 if r.kind == "angle" else MM_PER[self.document.unit]), DECIMALS)
            if c.unit is not None and c.unit != self.document.unit and r.kind != "angle" and not c.worked:
                text = f"{text} {c.unit}" if c.text[-1:].isdigit() else text
            verdict = self.prover.verdict(c)
            if c.link is None and c.gauged is None:
                continue  # nothing of the part is tied to it
            found.sizes.append(self._asked(c.id, text, r, verdict, c, c.number))
            if c.link is not None:
                taken.add((c.link.step, c.link.field))
                step = self.document.step(c.link.step)
                if isinstance(step, ChamferStep):
                    taken |= {(step.id, f) for f in ("first", "second", "angle")}
                if isinstance(step, HoleStep):
                    taken |= {(step.id, f) for f in (*hole_asked(r), HOLE, "size")}
        return taken

    def _asked(self, key: str, text: str, r: Requirement, v: Verdict, c: Callout, n: int | None = None) -> Asked:
        return Asked(key, text, r, v, c, tuple(self.by_place[p] for p in v.faces if p in self.by_place), n)

    def _first_true(self, key: str, texts: list[str], link: Link) -> Asked | None:
        """The first of texts that the part shows to be so, with as many as there are of it."""
        for text in texts:
            for _ in range(2):
                c = Callout(id="b999999", number=9999, text=text, link=link)
                r = read_callout(self.document, c)
                v = self.prover.verdict(c)
                if r.equally_spaced and v.count is not None and v.count < 3:
                    break  # one or two are always equally spaced
                if v.state in ("proven", "reference"):
                    return self._asked(key, text, r, v, c)
                if v.state != "out" or v.count is None or v.count == r.count or v.count < 1:
                    break
                text = f"{v.count}X {text}" if r.count == 1 else text
        return None

    def _own(self, taken: set[tuple[str, str]]) -> Iterator[tuple[Link, list[str]]]:
        """The sizes of sketches and steps that no callout speaks of, each in ways to write it, the fullest first."""
        for step in self.document.built():
            if isinstance(step, SketchStep):
                known = names(self.document)
                for d in step.sketch.dimensions:
                    if d.driving and (step.id, d.id) not in taken and d.kind != "arc_length":
                        value = known.value(d.expr, "angle" if d.kind == "angle" else "length")
                        yield Link(step=step.id, field=d.id), self._of_dimension(d.kind, value)
                continue
            values = self._values(step)
            if isinstance(step, HoleStep):
                values = {HOLE: values.get(HOLE, 0.0), **values}
            for name, value in values.items():
                texts = self._of_step(step, name, value, values) if (step.id, name) not in taken else []
                if texts:
                    yield Link(step=step.id, field=name), texts

    def _values(self, step: AnyStep) -> dict[str, float]:
        """What the fields of a step come to, in mm, degrees or plain, as a callout's link knows them."""
        known = names(self.document)
        return {field: known.value(text, kind) for field, text, kind, _ in walk.expressions(step)}

    def _length(self, value: float) -> str:
        """A length as it is written; one that cannot be written out is for reference."""
        k = MM_PER[self.document.unit]
        text = number(value / k, DECIMALS)
        return text if abs(float(text) * k - value) < EXACT else f"({text})"

    def _of_dimension(self, kind: str, value: float) -> list[str]:
        if kind == "angle":
            return [f"{number(value, DECIMALS)}°"]
        text = self._length(value)
        sign = {"radius": "R", "diameter": "Ø"}.get(kind, "")
        if text[0] == "(":
            return [f"({sign}{text[1:]}"]
        return [f"Ø{text} THRU EQ SP", f"Ø{text} THRU", f"Ø{text}"] if kind == "diameter" else [f"{sign}{text}"]

    def _of_step(self, step: AnyStep, name: str, value: float, values: dict[str, float]) -> list[str]:
        if isinstance(step, HoleStep):
            return self._hole(step, values) if name == HOLE else []
        if isinstance(step, ChamferStep):
            return self._chamfer(step, values) if name == "first" else []
        if name.startswith("radius"):
            return [f"R{self._length(value)}"]
        if name.startswith("angle") or name == "taper":
            whole = abs(value) < EXACT or abs(value - 360) < EXACT
            return [] if whole else [f"{number(abs(value), DECIMALS)}°"]
        return [self._length(value)] if name in LENGTHS and value > 0 else []

    def _hole(self, step: HoleStep, values: dict[str, float]) -> list[str]:
        wanted = {f.name: values.get(f.name) for f in fields(HoleSizes)}
        try:
            text = in_unit(hole_callout(step, HoleSizes(**wanted), 1), self.document.unit)  # type: ignore[arg-type]
        except StepFailure:
            return []
        return [f"{text} EQ SP", text, text.split(" ")[0]]

    def _chamfer(self, step: ChamferStep, values: dict[str, float]) -> list[str]:
        first = self._length(values["first"])
        if step.form == "two":
            return [f"{first} × {self._length(values['second'])}"]
        angle = values["angle"] if step.form == "angle" else 45.0
        return [f"{first} × {number(angle, DECIMALS)}°"]

    def _added(self, added: AddedSize, found: AskedSizes) -> None:
        """A size added by hand between places of the part; one whose places are gone is told."""
        sign = {"diameter": "Ø", "radius": "R"}.get(added.gauged.figure, "")
        c = Callout(id="b999999", number=9999, text=added.text or "1", gauged=added.gauged)
        v = self.prover.verdict(c)
        if v.measured is None:
            found.lost[added.id] = v.said
            return
        angle = "angle" in added.gauged.figure
        text = added.text or (f"{number(v.measured, DECIMALS)}°" if angle else f"{sign}{self._length(v.measured)}")
        c = c.model_copy(update={"text": text})
        r = parse(text, self.document.unit)
        found.sizes.append(self._asked(added.id, text, r, self.prover.verdict(c), c))
