"""Faces in words, for the reading line and for what is lost."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

ENTITIES = {"l": "line", "c": "circle", "a": "arc", "e": "ellipse", "s": "spline", "t": "text", "p": "point"}
PARTS = {
    "start": "start face",
    "end": "end face",
    "round": "round",
    "chamfer": "chamfer",
    "corner": "corner",
    "section": "cut face",
    "rest": "face",
    "given": "face",
}
HOLE = {
    "drill": "wall of the hole",
    "tip": "drill point of the hole",
    "bottom": "bottom of the hole",
    "bore": "counterbore of the hole",
    "shoulder": "shoulder of the hole",
    "sink": "countersink of the hole",
}
BEHIND = {"inner": "inner wall behind", "outer": "outer wall before", "rim": "rim at"}


LETTER = re.compile(r"t(\d+)c(\d+)k\d+")


def thing(ident: str) -> str:
    kind = ENTITIES.get(ident[:1], "")
    letter = LETTER.fullmatch(ident)
    if letter:
        return f"letter {letter[2]} of text {letter[1]}"
    return f"{kind} {ident[1:]}" if kind and ident[1:].isdigit() else ident


def origin(tag: str, number: Callable[[str], int]) -> str:
    """One origin in words; ``number`` gives a step's number on the route."""
    step, _, rest = tag.partition("/")
    role, _, what = rest.partition("/")
    n = number(step) or "a step no longer there"
    if role in ("start", "end"):
        return f"{PARTS[role]} of step {n}"
    if role in BEHIND:
        inner = origin(what, number) if what.startswith("s") and "/" in what else "an edge"
        return f"{BEHIND[role]} the {inner} (step {n})"
    if role[:1] == "i" and what:
        return f"copy {_copy(role)} of the {origin(what, number)} (step {n})"
    if role in HOLE:
        return f"{HOLE[role]} of step {n} at {thing(what)}"
    if role in PARTS:
        return f"{PARTS[role]} of step {n}"
    if role == "face":
        return f"face {what[1:]} of the file of step {n}"
    if what in ("tp", "tq"):
        return f"end of the wall of step {n}"
    if what[:1] == "b" and what[1:2] in ENTITIES:
        return f"right side of the wall of step {n} along {thing(what[1:])}"
    return f"wall of step {n} from {thing(what)}"


def _copy(role: str) -> str:
    """``i2`` is the second copy, ``i2x1`` stands at 2 along the first and 1 along the second direction."""
    first, _, second = role[1:].partition("x")
    return f"{first} × {second}" if second else first


def face(tags: Iterable[str], number: Callable[[str], int]) -> str:
    """A face in words; one that several steps made names them all, the first in full."""
    every = sorted(tags, key=lambda t: (number(t.split("/")[0]), t))
    if not every:
        return "a face without an origin"
    first = origin(every[0], number)
    return first if len(every) == 1 else f"{first} (and {len(every) - 1} more run into it)"
