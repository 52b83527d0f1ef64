"""Waiting for what kernel work leaves behind."""

import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from sulvak_core.part.errors import Refusal
from sulvak_server.leaving import gone

from .models import Artifact
from .queue import give_up

_waiting: Counter[str] = Counter()  # how many requests wait for each key
_lock = threading.Lock()
LOOKED_AFTER = 3.0  # seconds from one look whether the work is still to be done to the next
LOST = "This was stopped before it was done; ask again in a moment."


@contextmanager
def _among_those_waiting(key: str) -> Iterator[None]:
    """One more that waits; where the last of them leaves before it is there, the work is given up."""
    with _lock:
        _waiting[key] += 1
    try:
        yield
    finally:
        with _lock:
            _waiting[key] -= 1
            last = not _waiting[key]
            if last:
                del _waiting[key]
        if last and gone():
            give_up(key)


def _is_coming(key: str) -> bool:
    """Whether work that is kept under ``key`` waits or runs; one who left may have taken another's out of the queue."""
    return ProcrastinateJob.objects.filter(args__key=key, status__in=("todo", "doing")).exists()


def wait_for(key: str, seconds: float, late: str) -> Artifact:
    """The artifact of that key once it is made; Refusal with ``late`` after ``seconds``, with why it failed, when
    nobody hears the answer any more, or when nothing is left in the queue that would make it."""
    with _among_those_waiting(key):
        started = looked = time.monotonic()
        while (row := Artifact.objects.filter(key=key).first()) is None:
            waited = time.monotonic() - started
            if waited > seconds:
                raise Refusal(late, offer="again")
            if gone():
                raise Refusal("This was stopped.")
            if started + waited - looked > LOOKED_AFTER:
                looked = started + waited
                if not _is_coming(key) and not Artifact.objects.filter(key=key).exists():
                    raise Refusal(LOST, offer="again")
            if not connection.in_atomic_block:
                connection.close()  # who waits holds no connection that others could be served with
            time.sleep(min(0.03 + waited / 20, 0.25))
    if row.kind in ("failure", "superseded"):
        row.delete()
        raise Refusal(row.head, offer="again" if row.kind == "superseded" else "")
    return row
