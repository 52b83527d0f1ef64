"""Waiting for what a kernel job makes."""

import time

from django.db import connection

from sulvak_core.part.errors import Refusal

from .models import Artifact


def wait_for(key: str, seconds: float, late: str) -> Artifact:
    """The artifact of that key once it is made; Refusal with ``late`` after ``seconds``, or with why it failed."""
    started = time.monotonic()
    while (row := Artifact.objects.filter(key=key).first()) is None:
        waited = time.monotonic() - started
        if waited > seconds:
            raise Refusal(late)
        if not connection.in_atomic_block:
            connection.close()  # who waits holds no connection that others could be served with
        time.sleep(min(0.03 + waited / 20, 0.25))
    if row.kind == "failure":
        sentence = row.head
        row.delete()
        raise Refusal(sentence)
    return row
