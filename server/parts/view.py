"""What is shown of a part besides its build, and how answers go out."""

import json
import unicodedata
from collections import OrderedDict
from threading import Lock
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.http import HttpResponse
from django.utils.http import content_disposition_header

from sulvak_core.part.difference import difference
from sulvak_core.sketch.edit import Values
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.part_view import content
from sulvak_core.steps.registry import Document
from sulvak_core.steps.sketch_view import sketch_view

from .models import PartRecord
from .opened import opened
from .service import Change, next_ways


def answer(data: dict[str, Any]) -> HttpResponse:
    """Data of ours as they go out. They need no validation: what they are made of was validated when it came in."""
    return HttpResponse(json.dumps(data, cls=DjangoJSONEncoder, ensure_ascii=False), content_type="application/json")


VIEWS = 2048  # of sketches, remembered
_views: OrderedDict[tuple[int, Any], tuple[SketchStep, dict[str, Any]]] = OrderedDict()
_lock = Lock()


def _view_of(document: Document, step: SketchStep, values: Values) -> dict[str, Any]:
    """A sketch's state, remembered for as long as the step and the values of its dimensions stay what they are."""
    key = (id(step), (document.unit, *values.all(step.sketch).items()))
    with _lock:
        held = _views.get(key)
        if held is not None and held[0] is step:
            _views.move_to_end(key)
            return held[1]
    made = sketch_view(document, step, values)
    with _lock:
        _views[key] = (step, made)
        while len(_views) > VIEWS:
            _views.popitem(last=False)
    return made


def _beside(part: PartRecord, role: str | None) -> dict[str, Any]:
    ways = next_ways(part)
    return {
        "version": part.version,
        "settled": part.settled,
        "role": role,
        "can_undo": ways["undo"] is not None,
        "can_redo": ways["redo"] is not None,
        "undoes": ways["undo"],
        "redoes": ways["redo"],
    }


def part_view(part: PartRecord, role: str | None, told: list[str] | None = None, **more: Any) -> dict[str, Any]:
    """Everything the board needs of a part except its build."""
    return {
        "id": part.pk,
        "workspace": part.workspace_id,
        **_beside(part, role),
        **content(opened(part), _view_of),
        "lost": [],
        "said": told or [],
        **more,
    }


def part_changes(done: Change, role: str | None, **more: Any) -> dict[str, Any]:
    """What of ``part_view`` a change has made different."""
    patch = difference(content(done.before, _view_of), content(opened(done.part), _view_of))
    return {**_beside(done.part, role), "patch": patch, "said": done.outcome.said, **more}


def part_answer(part: PartRecord, role: str | None, told: list[str] | None = None, **more: Any) -> HttpResponse:
    """``part_view`` as it goes out; ``more`` are further fields of ``PartOut``."""
    return answer(part_view(part, role, told, **more))


def attachment(data: bytes, media_type: str, name: str, ending: str) -> HttpResponse:
    """A file to keep, named as the part is: letters of any script, what a file system could take amiss as dashes."""
    response = HttpResponse(data, content_type=media_type)
    safe = "".join(c if c.isalnum() or c in "-_." else "-" for c in unicodedata.normalize("NFC", name)[:60])
    response["Content-Disposition"] = content_disposition_header(True, f"{safe.lstrip('.') or 'part'}.{ending}")
    return response
