"""What goes into a step's work, worked out: values of its expressions, and keys of what it is made from."""

from __future__ import annotations

from typing import Any

from ..part.expressions import Kind
from ..sketch.model import Sketch
from ..solid.frame import Frame
from ..steps import walk
from . import pattern as repeating
from .context import Context
from .resolve import Axis
from .tooling import StepFailure
from .version import content_hash


def content(run: Context, step: Any) -> dict[str, Any]:
    """What a step says, with its expressions worked out; its name and note leave the result as it is."""
    plain, expressions = run.cache.of(step, "content", _said_by)
    return {"step": plain, "values": [(path, run.names.value(text, kind)) for path, text, kind in expressions]}


def _said_by(step: Any) -> tuple[Any, list[tuple[walk.Path, str, Kind]]]:
    """A step without its expressions, and those expressions by their paths: their values stand for them."""
    expressions = [(path, text, kind) for path, text, kind, _ in walk.placed_expressions(step)]
    plain = step.model_dump(mode="json", exclude={"name", "group", "note", "suppressed"})
    for path, _, _ in expressions:
        here = plain
        for key in path[:-1]:
            here = here[key]
        here[path[-1]] = None
    return plain, expressions


def frame_key(f: Frame | None) -> Any:
    return None if f is None else [f.origin, f.x, f.y]


def axis_key(a: Axis | None) -> Any:
    return None if a is None else [a.at, a.direction]


def drawn_key(run: Context, sketch: Sketch) -> str:
    """What a sketch's outlines are, as a hash."""
    return run.cache.of(
        sketch,
        "drawn",
        lambda s: content_hash(
            [(e.model_dump(mode="json"), e.id in s.given) for e in s.entities if not e.construction]
        ),
    )


def length_of(run: Context, text: str) -> float:
    return run.names.value(text, "length")


def angle_of(run: Context, text: str) -> float:
    return run.names.value(text, "angle")


def whole_of(run: Context, text: str, field: str) -> int:
    value = run.names.value(text, "number")
    if abs(value - round(value)) > 1e-9 or not 1 <= value <= repeating.MOST:
        raise StepFailure(f"A count is a whole number from 1 to {repeating.MOST}.", field=field)
    return round(value)
