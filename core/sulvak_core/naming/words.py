"""Faces in words, for the reading line and for what is lost."""

from __future__ import annotations

from collections.abc import Callable, Iterable


def origin(tag: str, number: Callable[[str], int]) -> str:
    """One origin in words; ``number`` gives a step's number on the route."""
    step, _, rest = tag.partition("/")
    role, _, what = rest.partition("/")
    n = number(step) or "a step no longer there"
    if role == "start":
        return f"start face of step {n}"
    if role == "end":
        return f"end face of step {n}"
    kind = {"l": "line", "c": "circle", "a": "arc"}.get(what[:1], "")
    return f"wall of step {n} from {kind} {what[1:]}"


def face(tags: Iterable[str], number: Callable[[str], int]) -> str:
    """A face in words; one that several steps made names them all, the first in full."""
    every = sorted(tags, key=lambda t: (number(t.split("/")[0]), t))
    if not every:
        return "a face without an origin"
    first = origin(every[0], number)
    return first if len(every) == 1 else f"{first} (and {len(every) - 1} more run into it)"
