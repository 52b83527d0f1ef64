"""Parts' documents as they were last read or written by this process, so that each is read once a version."""

from collections import OrderedDict
from threading import Lock
from typing import Any
from uuid import UUID

from sulvak_core.steps.registry import Document, Opened, load, to_json

from .models import PartRecord

MOST = 64  # parts
_recent: OrderedDict[UUID, tuple[Any, Opened]] = OrderedDict()  # the data as they were stored, and what they mean
_lock = Lock()


def opened(part: PartRecord) -> Opened:
    """A part's document, with its data in today's format. Raises Refusal."""
    return read(part.pk, part.document)


def read(ident: UUID, data: dict[str, Any]) -> Opened:
    """Data of a part as a document; steps that this process has read before are not read again. Raises Refusal."""
    with _lock:
        stored, before = _recent.get(ident, (None, None))
    if before is not None and stored == data:
        return before
    document = load(data, before)
    return _keep(ident, data, Opened(to_json(document, before), document))


def changed(ident: UUID, before: Opened, document: Document) -> Opened:
    """A document that a change of ``before`` led to, with its data: those of unchanged steps are the same objects."""
    data = to_json(document, before)
    return _keep(ident, data, Opened(data, document))


def _keep(ident: UUID, stored: Any, made: Opened) -> Opened:
    with _lock:
        _recent[ident] = (stored, made)
        _recent.move_to_end(ident)
        while len(_recent) > MOST:
            _recent.popitem(last=False)
    return made
