"""Files people bring: looked at and stored a few at a time, since each is held in memory several times over."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Generic, TypeVar

from django.conf import settings
from django.db import connection
from ninja.files import UploadedFile

from sulvak_core.part.errors import Refusal

from .models import StoredFile

T = TypeVar("T")

TOGETHER = 2
PATIENCE = 60.0  # seconds
_slots = threading.BoundedSemaphore(TOGETHER)


@dataclass(frozen=True)
class Brought(Generic[T]):
    """A file as it is stored: its SHA-256, what was found when it was looked at, whether it was not there before."""

    digest: str
    found: T
    stored: StoredFile
    fresh: bool


@contextmanager
def slot() -> Iterator[None]:
    """One of the few places where a whole file is held. Raises Refusal when none gets free for long."""
    if not _slots.acquire(blocking=False):
        if not connection.in_atomic_block:
            connection.close()  # who waits holds no connection that others could be served with
        if not _slots.acquire(timeout=PATIENCE):
            raise Refusal("Many files are being read in just now. Try again in a minute.")
    try:
        yield
    finally:
        _slots.release()


def bounded(file: UploadedFile, too_large: str) -> None:
    """Raises Refusal with ``too_large`` for a file beyond the limit."""
    if (file.size or 0) > settings.UPLOAD_LIMIT:
        raise Refusal(too_large)


def store(
    workspace_id: int, file: UploadedFile, too_large: str, look: Callable[[bytes], tuple[str, T]], rename: bool = False
) -> Brought[T]:
    """Keep a file by its content. ``look`` gives its media type and what else is to be known, or raises Refusal;
    ``rename``: the media type of what was there already becomes that."""
    bounded(file, too_large)
    with slot():
        data = file.read()
        media_type, found = look(data)
        digest = hashlib.sha256(data).hexdigest()
        stored = StoredFile.objects.filter(workspace_id=workspace_id, sha256=digest).defer("data").first()
        fresh = False
        if stored is None:
            kept = {"media_type": media_type, "data": data}
            stored, fresh = StoredFile.objects.get_or_create(workspace_id=workspace_id, sha256=digest, defaults=kept)
        if rename and stored.media_type != media_type:
            stored.media_type = media_type
            stored.save(update_fields=["media_type"])
    return Brought(digest, found, stored, fresh)
