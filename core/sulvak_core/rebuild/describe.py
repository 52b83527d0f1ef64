"""A step said as one sentence, from the parts its kind is made of."""

from __future__ import annotations

from typing import Any, Literal

from ..naming import words as face_words
from ..part.errors import Refusal
from ..part.expressions import Names
from ..part.units import length, number
from ..steps.choices import FacePlane, LineAxis, PartAxis, StepAxis, StepPlane
from ..steps.kinds.sketch import DATUMS, SketchStep
from ..steps.registry import AnyStep, Document, sentence_of
from ..steps.sentence import Group, Slot, Words, look
from .resolve import edge_rule_words, face_now, face_rule_words, point_words

UNSAID = {"Direction", "Second way", "Pull", "Sense", "Parting", "Sides", "Extents", "Which face", "Which side"}

LONG = 70  # letters up to which two things are told one by one


class Sayer:
    """Says steps of a document."""

    def __init__(self, document: Document, names: Names) -> None:
        self.document, self.names = document, names

    def sentence(self, step: AnyStep) -> str:
        """The whole sentence; what cannot be worked out stays as it was typed."""
        said = " ".join(w for w in self._parts(sentence_of(step), step) if w)
        return said.replace(" ; ", "; ").replace(" ,", ",").replace(" :", ":").replace("R ", "R").replace("⌀ ", "⌀")

    def _parts(self, parts: tuple[Any, ...], model: Any) -> list[str]:
        data = model.model_dump(mode="json")
        found: list[str] = []
        for part in parts:
            if isinstance(part, Words):
                if all(w.holds(data) for w in part.when):
                    found.append(part.text)
            elif isinstance(part, Group):
                items = getattr(model, part.field)
                for i, item in enumerate(items):
                    found += [";"] if i else []
                    found += self._parts(part.parts, item)
            elif all(w.holds(data) for w in part.when):
                found.append(self._slot(part, model, data))
        return found

    def _slot(self, slot: Slot, model: Any, data: dict[str, Any]) -> str:
        plain = look(data, slot.field)
        value: Any = model
        for name in slot.field.split("."):
            value = getattr(value, name, None)
        if slot.optional and plain in (None, "", "0", []):
            return slot.empty
        if slot.kind in ("choice", "flag"):
            chosen = str(plain).lower() if isinstance(plain, bool) else str(plain)
            if slot.kind == "flag" and slot.options[0].value == chosen and slot.label in UNSAID:
                return ""  # what is as usual goes without saying
            return next((o.words for o in slot.options if o.value == chosen), "")
        return getattr(self, f"_{slot.kind}")(value, slot)

    # -- kinds of slot ---------------------------------------------------------------------------

    def _length(self, text: str, slot: Slot) -> str:
        unit: Literal["mm", "in"] = "in" if self.document.unit == "in" else "mm"
        if not text:
            return ""
        try:
            shown = f"{length(self.names.value(text, 'length'), unit)} {unit}"
        except Refusal:
            shown = text
        return {"Short of it by": f"short of it by {shown}", "Thin wall": f"as a wall of {shown}"}.get(
            slot.label, shown
        )

    def _angle(self, text: str, slot: Slot) -> str:
        try:
            shown = f"{number(self.names.value(text, 'angle'), 4)}°"
        except Refusal:
            shown = text
        return f"tapering by {shown}" if slot.label == "Taper" else shown

    def _count(self, text: str, slot: Slot) -> str:
        try:
            return number(self.names.value(text, "number"), 3)
        except Refusal:
            return text

    def _text(self, text: str | None, slot: Slot) -> str:
        return (
            f"“{text}”"
            if text and slot.label.startswith("Name")
            else f"colour {text}"
            if slot.label.startswith("Colour")
            else text or ("a file" if slot.label == "File" else "")
        )

    def _size(self, text: str, slot: Slot) -> str:
        return text

    def _sketch(self, ident: str, slot: Slot) -> str:
        return f"sketch {self.document.position(ident)}"

    def _regions(self, picks: Any, slot: Slot) -> str:
        return "" if picks is None else f"{len(picks)} region{'' if len(picks) == 1 else 's'} of"

    def _face(self, ref: Any, slot: Slot) -> str:
        if ref is None:
            return "a face still to be chosen"
        return f"the {face_now(ref, self.document)}"

    def _faces(self, choices: Any, slot: Slot) -> str:
        return self._listed([face_rule_words(c, self.document) for c in choices], "face")

    def _edges(self, choices: Any, slot: Slot) -> str:
        said = self._listed([edge_rule_words(c, self.document) for c in choices], "edge")
        return f"without {said}" if slot.label == "Left out" else said

    @staticmethod
    def _listed(words: list[str], one: str) -> str:
        if not words:
            return f"no {one}s yet"
        said = " and ".join(words)
        if len(words) <= 2 and len(said) <= LONG:
            return said
        # several would fill the route; the step's own slots tell each
        return words[0] if len(words) == 1 else f"{len(words)} {one}s"

    def _plane(self, choice: Any, slot: Slot) -> str:
        if choice is None:
            return "a plane still to be chosen"
        if isinstance(choice, FacePlane):
            return self._face(choice.face, slot)
        if isinstance(choice, StepPlane):
            return f"the plane of step {self.document.position(choice.step)}"
        return (
            DATUMS[choice.plane]
            if slot.label == "Plane" and slot.field == "on"
            else f"the {DATUMS[choice.plane].lower()}"
        )

    def _axis(self, choice: Any, slot: Slot) -> str:
        if choice is None:
            return "an axis still to be chosen"
        if isinstance(choice, PartAxis):
            return f"the {choice.axis.upper()} axis"
        if isinstance(choice, StepAxis):
            return f"the axis of step {self.document.position(choice.step)}"
        if isinstance(choice, LineAxis):
            line = f"{choice.line.upper()} axis" if choice.line in ("x", "y") else f"line {choice.line[1:]}"
            return f"{line} of sketch {self.document.position(choice.step)}"
        if choice.kind == "face":
            return f"the axis of the {face_words.face(choice.face.origins, self.document.position)}"
        one, two = (face_words.face(f.origins, self.document.position) for f in choice.edge.between)
        return f"the edge between the {one} and the {two}"

    def _steps(self, idents: Any, slot: Slot) -> str:
        numbers = [str(self.document.position(i)) for i in idents]
        return f"step{'' if len(numbers) == 1 else 's'} {', '.join(numbers)}"

    def _body(self, ident: str, slot: Slot) -> str:
        return f"the body of step {self.document.position(ident.split('x')[0])}"

    def _bodies(self, idents: Any, slot: Slot) -> str:
        if not idents:
            return slot.empty
        numbers = [str(self.document.position(i.split("x")[0])) for i in idents]
        one = len(numbers) == 1
        words = f"the bod{'y' if one else 'ies'} of step{'' if one else 's'} {', '.join(numbers)}"
        return f"on {words}" if slot.label == "Of bodies" else words

    def _points(self, points: Any, slot: Slot) -> str:
        if len(points) != slot.count:
            return f"{slot.label.lower()} still to be chosen"
        return f"{slot.count} points" if slot.count > 2 else " and ".join(point_words(p, self.document) for p in points)

    def _grid(self, places: Any, slot: Slot) -> str:
        return f"leaving out {len(places)}"


def place_words(step: SketchStep, sayer: Sayer) -> str:
    """What a sketch lies on."""
    return sayer._plane(step.on, Slot("on", "plane", "Plane"))
