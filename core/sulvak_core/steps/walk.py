"""Walking over what a step holds: its expressions, and the steps it names."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from pydantic import BaseModel

from ..naming.model import CutRef, EdgeRef, FaceRef, SilhouetteRef
from ..part.expressions import Kind
from ..sketch.model import Sketch

M = TypeVar("M", bound=BaseModel)
Path = tuple[str | int, ...]
STEP_FIELDS = {"sketch", "step", "stencil"}
BODY_FIELDS = {"body", "bodies", "tools"}


def fields(model: BaseModel, path: Path = ()) -> Iterator[tuple[Path, Any, dict[str, Any]]]:
    """(path, value, extra of the schema) of every plain field, at any depth. Sketches are not walked into."""
    for name, info in type(model).model_fields.items():
        value = getattr(model, name)
        if isinstance(value, Sketch):
            continue
        extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
        for here, item in _items(value, (*path, name)):
            if isinstance(item, BaseModel):
                yield from fields(item, here)
            else:
                yield here, item, dict(extra)


def _items(value: Any, path: Path) -> Iterator[tuple[Path, Any]]:
    if isinstance(value, list | tuple):
        for i, item in enumerate(value):
            yield from _items(item, (*path, i))
    else:
        yield path, value


def placed_expressions(model: BaseModel) -> Iterator[tuple[Path, str, Kind, bool]]:
    """(path, text, kind, may be any sign) of every expression, at any depth. Empty ones are left out."""
    kinds: dict[str, Kind] = {"angle": "angle", "number": "number"}
    for path, value, extra in fields(model):
        quantity = extra.get("quantity")
        if quantity is not None and isinstance(value, str) and value:
            yield path, value, kinds.get(str(quantity), "length"), extra.get("sign") == "any"


def expressions(model: BaseModel) -> Iterator[tuple[str, str, Kind, bool]]:
    """(field, text, kind, may be any sign) of every expression, with the field's name."""
    for path, value, kind, any_sign in placed_expressions(model):
        yield field_name(path), value, kind, any_sign


def dotted(path: Path) -> str:
    """A path as one text: ``groups.1.radius``."""
    return ".".join(str(p) for p in path)


def field_name(path: Path) -> str:
    """What a callout's link knows a field by: the last name of its path; in a group the second is ``radius2`` and so
    on, in another list it is named with it (``own_thickness``)."""
    at = next((k for k, p in enumerate(path) if isinstance(p, int)), None)
    if at is None:
        return str(path[-1])
    base = str(path[-1]) if path[at - 1] == "groups" else f"{path[at - 1]}_{path[-1]}"
    index = path[at]
    return f"{base}{int(index) + 1}" if index else base


def rewritten(model: M, change: Callable[[Path, str, Kind], str]) -> M:
    """A copy with every expression as ``change(path, text, kind)`` gives it."""
    for path, text, kind, _ in list(placed_expressions(model)):
        new = change(path, text, kind)
        if new != text:
            model = _put(model, path, new)
    return model


def _put(value: Any, path: Path, new: str) -> Any:
    if not path:
        return new
    if isinstance(value, BaseModel):
        name = str(path[0])
        return value.model_copy(update={name: _put(getattr(value, name), path[1:], new)})
    index = int(path[0])
    return [*value[:index], _put(value[index], path[1:], new), *value[index + 1 :]]


def references(model: BaseModel) -> Iterator[FaceRef | EdgeRef | CutRef | SilhouetteRef]:
    """Every reference to a face or an edge."""
    for name in type(model).model_fields:
        value = getattr(model, name)
        if isinstance(value, Sketch):
            continue
        for _, item in _items(value, ()):
            if isinstance(item, FaceRef | EdgeRef | CutRef | SilhouetteRef):
                yield item
            elif isinstance(item, BaseModel):
                yield from references(item)


def named_steps(model: BaseModel) -> Iterator[str]:
    """Ids of all steps that a step names or whose faces it uses; some may come up several times."""
    for path, value, _ in fields(model):
        if not isinstance(value, str):
            continue
        name = next(str(p) for p in reversed(path) if isinstance(p, str))
        if name in STEP_FIELDS or name == "of":
            if value.startswith("s") and value[1:].isdigit():
                yield value
        elif name in BODY_FIELDS:
            yield value.split("x")[0]
        elif name == "origins":
            yield value.split("/")[0]
