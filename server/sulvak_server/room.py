"""Whether the disk under the database has room. What would fill it to the brim is refused in time: a database that
cannot write its log goes down."""

from __future__ import annotations

import errno
import os
import shutil
import time
from collections.abc import Callable

import psycopg
from django.http import HttpRequest, HttpResponse, JsonResponse

RESERVE = int(os.environ.get("SULVAK_DISK_RESERVE", str(256 << 20)))  # bytes that people's changes leave free
CACHES = 2 * RESERVE  # bytes that what can be made again leaves free
LAST = RESERVE // 4  # bytes: where the database is away with less than that, that is why
FULL = (
    "The disk of this Sulvak is full, so nothing more is stored just now. What is shown as saved is kept; "
    "when there is room on the disk again, this goes on by itself."
)
STATUS = 507  # Insufficient Storage, RFC 4918
LOOK = 1.0  # seconds
_READING = ("GET", "HEAD", "OPTIONS")
_ALWAYS = ("/api/sign-in", "/api/sign-out")  # who cannot come in cannot look either

_seen: tuple[float, int | None] = (0.0, None)


def left() -> int | None:
    """Free bytes where the database lies; None where that is not on this machine. Looked at once a second."""
    global _seen
    folder = os.environ.get("SULVAK_DATA")
    if not folder:
        return None
    if time.monotonic() - _seen[0] > LOOK or not _seen[0]:
        try:
            _seen = (time.monotonic(), shutil.disk_usage(folder).free)
        except OSError:
            _seen = (time.monotonic(), None)
    return _seen[1]


def short(of: int = RESERVE) -> bool:
    """Whether less than ``of`` bytes are free."""
    free = left()
    return free is not None and free < of


def disk_full(error: BaseException | None) -> bool:
    """Whether an error, or one it came of, is that of a full disk."""
    seen: set[int] = set()
    while error is not None and id(error) not in seen:
        if isinstance(error, psycopg.errors.DiskFull) or (isinstance(error, OSError) and error.errno == errno.ENOSPC):
            return True
        seen.add(id(error))
        error = error.__cause__ or error.__context__
    return False


class RoomToWrite:
    """Answers what would change something with a sentence while the disk is short of room."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.method not in _READING and request.path not in _ALWAYS and short():
            return JsonResponse({"sentence": FULL}, status=STATUS)
        return self.get_response(request)
