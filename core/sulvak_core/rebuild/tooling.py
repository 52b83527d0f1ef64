"""What the work of every step gives back or raises, and how tools become part of the bodies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

from typing_extensions import Unpack

from ..part.errors import Offers
from ..part.units import told
from ..solid.blend import Fitting
from ..solid.boolean import combine
from ..solid.place import Placing
from ..solid.shapes import KernelError, Solid
from .state import Body, State

NOTHING = 1e-9  # share of the tool's volume under which a cut removes nothing


class StepFailure(Exception):
    """A step that cannot be done: its sentence, and what could be done instead (``offers``)."""

    def __init__(self, sentence: str, **offers: Unpack[Offers]) -> None:
        super().__init__(sentence)
        self.sentence, self.offers = sentence, offers


@dataclass
class Done:
    """The bodies after a step, what it did in words, and more to be kept with them."""

    state: State
    said: str
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass
class Tooling:
    """How a step makes what it adds or takes away, so that a pattern can make it again elsewhere.

    ``make(placing, state)``: the solids, moved by ``placing``; with a ``state`` their extent is worked out in it.
    """

    operation: str
    bodies: list[str] | None
    make: Callable[[Placing | None, State | None], list[Solid]]


def targets(state: State, chosen: list[str] | None) -> list[Body]:
    """The bodies a step works on. Raises StepFailure when one that was chosen is gone."""
    if chosen is None:
        return list(state.bodies)
    here = {b.id for b in state.bodies}
    if not set(chosen) <= here:
        raise StepFailure("A body this step works on is gone; choose its bodies again.", pick="bodies")
    return [b for b in state.bodies if b.id in chosen]


def body_id(step: str, index: int) -> str:
    return step if index == 0 else f"{step}x{index + 1}"


def free_id(ident: str, taken: set[str]) -> str:
    root = ident.split("x")[0]
    return next(f"{root}x{k}" for k in range(2, len(taken) + 3) if f"{root}x{k}" not in taken)


def counted(n: int, one: str, many: str = "") -> str:
    return f"{n} {one if n == 1 else many or one + 's'}"


def replaced(state: State, old: Body, pieces: list[Solid]) -> State:
    """``old`` in the place of which its pieces stand, the largest under its id."""
    after: list[Body] = []
    for body in state.bodies:
        if body.id != old.id:
            after.append(body)
            continue
        for i, piece in enumerate(sorted(pieces, key=lambda s: -s.volume())):
            ident = body.id if i == 0 else free_id(body.id, {b.id for b in [*state.bodies, *after]})
            after.append(Body(ident, piece, body.title, body.colour, body.material))
    return State(after)


def cut(state: State, on: list[Body], made: list[Solid]) -> State:
    """Bodies with tools subtracted."""
    after = state
    for body in on:
        after = replaced(after, body, combine("subtract", [body.solid], made, "cut"))
    return after


def meet(state: State, on: list[Body], made: list[Solid]) -> State:
    """Bodies intersected with tools."""
    after = state
    tool = combine("union", made[:1], made[1:], "cut") if len(made) > 1 else made
    for body in on:
        after = replaced(after, body, combine("intersect", [body.solid], tool, "cut"))
    return after


def add(step: str, state: State, on: list[Body], made: list[Solid]) -> tuple[State, int]:
    """Bodies united with tools; and how many new bodies stand apart."""
    united = combine("union", [b.solid for b in on], made, "union")
    after: list[Body] = [b for b in state.bodies if b not in on]
    taken: set[str] = set()
    fresh = 0
    for solid in sorted(united, key=lambda s: -s.volume()):
        heirs = [b for b in on if b.id not in taken and _shares(b.solid, solid)]
        if heirs:
            first = heirs[0]
            taken |= {b.id for b in heirs}
            after.append(Body(first.id, solid, first.title, first.colour, first.material))
        else:
            ident = body_id(step, fresh)
            while ident in {b.id for b in after}:
                fresh += 1
                ident = body_id(step, fresh)
            after.append(Body(ident, solid))
            fresh += 1
    order = {b.id: i for i, b in enumerate(state.bodies)}
    after.sort(key=lambda b: order.get(b.id, len(order)))
    return State(after), fresh


def _shares(before: Solid, after: Solid) -> bool:
    mine = {t for _, tags in before.tags.items() for t in tags}
    return any(tags & mine for _, tags in after.tags.items())


def fresh_bodies(step: str, state: State, made: list[Solid]) -> State:
    """New bodies for each solid."""
    taken = {b.id for b in state.bodies}
    after = list(state.bodies)
    k = 0
    for solid in made:
        while body_id(step, k) in taken:
            k += 1
        after.append(Body(body_id(step, k), solid))
        taken.add(body_id(step, k))
    return State(after)


def used(
    step: str,
    operation: str,
    state: State,
    on: list[Body],
    made: list[Solid],
    missed: Callable[[], Offers] = Offers,
) -> Done:
    """Tools used on bodies: ``operation`` add, cut, intersect or new. ``missed`` gives what to offer when a cut
    removes nothing (``helps``: whether turning it round would)."""

    def amounts(volume: float) -> bool:
        """Whether a volume is more than what the kernel's tolerances make of the tools."""
        return volume >= 1.0 or volume > NOTHING * sum(s.volume() for s in made)

    if operation == "cut":
        if not on:
            raise StepFailure("There is nothing yet to cut; extrude a base first.")
        after = cut(state, on, made)
        removed = state.volume() - after.volume()
        if not amounts(removed):
            offers = missed()
            hint = " Turned round it would cut." if offers else " Move the sketch, or make the cut deeper."
            raise StepFailure(
                f"This removes nothing: the profile lies outside the part in this direction.{hint}", **offers
            )
        more, gone = len(after.bodies) - len(state.bodies), len({b.id for b in on} - {b.id for b in after.bodies})
        note = (
            f" It falls into {len(after.bodies)} bodies." if more > 0 else " A whole body is cut away." if gone else ""
        )
        return Done(after, f"Removes {told(removed, 3)}.{note}")
    if operation == "intersect":
        if not on:
            raise StepFailure("There is nothing yet to intersect with; extrude a base first.")
        after = meet(state, on, made)
        if not after.bodies or not amounts(after.volume()):
            raise StepFailure("Nothing would be left: the profile and the part share no space.", **missed())
        return Done(after, f"Removes {told(state.volume() - after.volume(), 3)}.")
    if operation == "new" or not on:
        if len(made) > 1:  # those that share a wall become one
            made = combine("union", made[:1], made[1:], "extrusion")
        return Done(fresh_bodies(step, state, made), f"Makes {counted(len(made), 'body', 'bodies')}.")
    after, fresh = add(step, state, on, made)
    added = after.volume() - state.volume()
    if not amounts(added):
        raise StepFailure("This adds nothing: the part already fills that space. Turn it round, or cut instead.")
    apart = " It stands apart from the part, as a body of its own." if fresh else ""
    joined = " It joins bodies into one." if len(after.bodies) < len(state.bodies) else ""
    return Done(after, f"Adds {told(added, 3)}.{apart}{joined}")


def with_solids(state: State, made: dict[int, Solid]) -> State:
    """The bodies with some of their solids replaced, by index."""
    return State([replace(b, solid=made[i]) if i in made else b for i, b in enumerate(state.bodies)])


def change_told(before: State, after: State) -> str:
    """How much a step added or took away, as a sentence."""
    change = after.volume() - before.volume()
    if abs(change) < 1e-9 * max(before.volume(), 1.0):
        return "Changes no volume."
    return f"{'Adds' if change > 0 else 'Removes'} {told(abs(change), 3)}."


def nth(field: str, k: int) -> str:
    """The name of a group's value, counted from the second on."""
    return f"{field}{k + 1}" if k else field


def what_fits(best: str, of: Fitting, fitting: float, most: float, write: Callable[[float], str]) -> str:
    """How a sentence ends that says what would fit instead of ``most``: the ``best`` that does, or where it was not
    looked for to the end, between which sizes it lies."""
    if of.found:
        return f"{best} is about {write(fitting)}."
    return f"{write(fitting)} does, {write(of.fails * most)} does not, and what lies between was not tried to the end."


def works(work: Callable[[], object]) -> bool:
    """Whether the kernel can do some work."""
    try:
        work()
    except KernelError:
        return False
    return True
