"""Waiting for what a kernel job makes."""

import time

from sulvak_core.part.errors import Refusal

from .models import Artifact


def wait_for(key: str, seconds: float, late: str) -> Artifact:
    """The artifact of that key once it is made; Refusal with ``late`` after ``seconds``, or with why it failed."""
    started = time.monotonic()
    while (row := Artifact.objects.filter(key=key).first()) is None:
        if time.monotonic() - started > seconds:
            raise Refusal(late)
        time.sleep(0.03)
    if row.kind == "failure":
        sentence = row.head
        row.delete()
        raise Refusal(sentence)
    return row
