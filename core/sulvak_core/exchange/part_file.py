"""The part's own file: documented JSON (docs/part-file.md), readable in a diff; and its JSON Schema."""

from __future__ import annotations

import json
from typing import Any

from ..part.errors import Refusal
from ..steps.registry import Document, load, to_json

LIMIT = 20_000_000  # bytes


def write(document: Document) -> str:
    """The part file's text: two-space indented JSON with short lists on one line, keys in a fixed order."""
    data = to_json(document)
    data["steps"] = [{k: v for k, v in s.items() if v not in (None, "", False)} for s in data["steps"]]
    return _pretty(data, 0) + "\n"


def _pretty(value: Any, depth: int) -> str:
    flat = json.dumps(value, ensure_ascii=False)
    if not isinstance(value, dict | list) or not value or (len(flat) <= 100 and depth > 1):
        return flat
    inner, outer = "  " * (depth + 1), "  " * depth
    if isinstance(value, dict):
        rows = [f"{inner}{json.dumps(k, ensure_ascii=False)}: {_pretty(v, depth + 1)}" for k, v in value.items()]
        return "{\n" + ",\n".join(rows) + f"\n{outer}}}"
    return "[\n" + ",\n".join(inner + _pretty(v, depth + 1) for v in value) + f"\n{outer}]"


def read(text: str | bytes) -> Document:
    """A document from a part file. Raises Refusal with what is wrong and where."""
    if len(text) > LIMIT:
        raise Refusal(f"This file is larger than {LIMIT // 1_000_000} MB; a part file is far smaller.")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        where = f" (line {error.lineno})" if isinstance(error, json.JSONDecodeError) else ""
        raise Refusal(f"This is not a part file: it is not readable as JSON{where}.") from None
    if not isinstance(data, dict) or data.get("format") != "sulvak-part":
        raise Refusal("This is not a Sulvak part file: it does not say “format”: “sulvak-part”.")
    if "format_version" not in data:
        raise Refusal("This part file does not say its “format_version”.")
    return checked(load(_of_before(data)))


def _of_before(data: dict[str, Any]) -> dict[str, Any]:
    """Files of before drafts said which way they are pulled: away into the part behind a face, along the normal of a
    datum plane; what was false was not written."""
    steps = data.get("steps")
    for step in steps if isinstance(steps, list) else []:
        if isinstance(step, dict) and step.get("kind") == "draft" and "pull" not in step:
            step.setdefault("reverse", False)
    return data


def checked(document: Document) -> Document:
    """A document whose ids, names, expressions and sketches hold together. Raises Refusal with the place.

    A file written by hand may hold sketches that do not yet satisfy their own constraints: they are solved.
    """
    from ..part.materials import checked_own
    from ..sketch import edit
    from ..steps.kinds.sketch import SketchStep
    from ..steps.route_effects import check_order, check_step
    from ..steps.shared import values_for

    ids = [s.id for s in document.steps]
    if len(set(ids)) != len(ids):
        raise Refusal("Two steps in this part have the same id.")
    if document.hold is not None and document.hold not in ids:
        raise Refusal("The hold point of this part names a step that is not in it.")
    checked_own(document.materials, {document.material})  # bodies' own: with their steps
    check_order(document)
    values = values_for(document)
    steps: list[Any] = []
    for step in document.steps:
        try:
            check_step(document, step)
            if isinstance(step, SketchStep):
                sketch = step.sketch
                every = list(sketch.idents())
                if len(set(every)) != len(every):
                    raise Refusal("two things in the sketch have the same id.")
                edit.check_entities(sketch.entities, rough=True)
                edit.check_refs(sketch, [*sketch.constraints, *sketch.dimensions])
                step = step.model_copy(update={"sketch": edit.resolve(sketch, values).sketch})
        except Refusal as error:
            raise Refusal(f"Step {document.position(step.id)}: {error.sentence}", **error.detail) from None
        steps.append(step)
    return document.model_copy(update={"steps": steps})


def schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a part file."""
    made = Document.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Sulvak part file", **made}
