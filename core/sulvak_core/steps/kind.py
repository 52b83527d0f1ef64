"""What a kind of step is to the rest: everything there is to know of it in one object."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from ..part.document import StepBase
from .sentence import Part

Makes = Literal["bodies", "sketch", "guide", "names"]
Source = Literal["", "regions", "points", "lines"]
# what can be chosen before a step is started, and the slots it goes into (dotted): edges and the edges around faces;
# faces; the first face as a plane; the first edge as an axis; bodies; the first of them and the others; steps by what
# they made; a centre line of the sketch
Chosen = Literal["edges", "faces", "plane", "axis", "bodies", "body", "others", "steps", "centre_line"]


@dataclass(frozen=True)
class Start:
    """One action that starts a step. ``fresh``: its first content; ``first``: the slot to fill in first (dotted);
    ``needs``: what there must be (a sketch, a body, two bodies)."""

    action: str
    words: str
    keys: str
    group: str
    fresh: dict[str, Any] = field(default_factory=dict)
    first: str = ""
    needs: str = ""


@dataclass(frozen=True)
class StepKind:
    """A kind of step.

    ``makes``: what it does to the part: changes its bodies, is a sketch, is a guide beside them, or only names one;
    ``called``: the word for it where that is not its kind; ``starts``: the actions that begin one; ``source``: what it
    takes of a sketch; ``downwards``: it goes against the sketch's normal unless it is turned round; ``repeatable``: a
    pattern can make it again; ``takes``: where what is chosen goes when it is started.
    """

    model: type[StepBase]
    sentence: tuple[Part, ...]
    makes: Makes = "bodies"
    called: str = ""
    starts: tuple[Start, ...] = ()
    source: Source = ""
    downwards: bool = False
    repeatable: bool = False
    takes: dict[Chosen, str] = field(default_factory=dict)

    def told(self) -> dict[str, Any]:
        """What the screen is told of it, as plain data."""
        return {
            "makes": self.makes,
            "called": self.called or self.kind,
            "source": self.source,
            "downwards": self.downwards,
            "repeatable": self.repeatable,
            "takes": dict(self.takes),
        }

    @property
    def kind(self) -> str:
        """What the part file calls it."""
        return str(self.model.model_fields["kind"].default)

    def defaults(self) -> dict[str, Any]:
        """What its fields hold when nothing is said."""
        fields = self.model.model_fields
        held = {n: f.get_default(call_default_factory=True) for n, f in fields.items() if not f.is_required()}
        return {n: v for n, v in held.items() if n != "kind"}
