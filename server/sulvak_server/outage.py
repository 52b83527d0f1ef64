"""What is answered while the database is away, wherever the request was when it went."""

import sys

import psycopg
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse

from . import room
from .logs import number

AWAY = "The database does not answer just now. Everything shown as saved is kept; try again."
BROKEN = "Something went wrong here. What is shown as saved is kept; try again, or tell who keeps this Sulvak."
_SIGNS = (OperationalError, InterfaceError, psycopg.OperationalError, psycopg.InterfaceError)


def database_away(error: BaseException | None) -> bool:
    """Whether the error, or one it came of, says that the database does not answer.

    The queue wraps what it meets in an exception of its own, so that the outermost kind tells nothing.
    """
    seen: set[int] = set()
    while error is not None and id(error) not in seen:
        if isinstance(error, _SIGNS):
            return True
        seen.add(id(error))
        error = error.__cause__ or error.__context__
    return False


def outage(error: BaseException | None) -> tuple[int, str] | None:
    """Status and sentence for an error that is of the database's or the disk's making; None for any other."""
    if room.disk_full(error):
        return room.STATUS, room.FULL
    if not database_away(error):
        return None
    return (room.STATUS, room.FULL) if room.short(room.LAST) else (503, AWAY)


def uncaught(request: HttpRequest) -> HttpResponse:
    """Django's last resort: for errors outside the API's own handlers (sessions, sign-in, sign-out)."""
    error = sys.exc_info()[1]
    status, sentence = outage(error) or (500, BROKEN + (f" The log has it under {number()}." if number() else ""))
    if request.path.startswith("/api/"):
        return JsonResponse({"sentence": sentence}, status=status)
    return HttpResponse(sentence, status=status, content_type="text/plain; charset=utf-8")
