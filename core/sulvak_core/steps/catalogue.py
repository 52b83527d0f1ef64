"""All kinds of step a designer can start, with what a new one holds at first and how it is called for."""

from __future__ import annotations

from typing import Any

from ..part.threads import THREADS
from .kinds import KINDS
from .sentence import parts_json


def catalogue() -> dict[str, Any]:
    """Everything a screen needs to offer and edit steps, as plain data: what there is to know of each of the ``kinds``,
    the ``starts``, the ``sentences`` by kind, thread ``sizes``."""
    return {
        "kinds": {k.kind: k.told() for k in KINDS},
        "starts": [
            {
                "action": s.action,
                "kind": k.kind,
                "words": s.words,
                "keys": s.keys,
                "group": s.group,
                "fresh": {**k.defaults(), **s.fresh},
                "first": s.first,
                "needs": s.needs,
            }
            for k in KINDS
            for s in k.starts
        ],
        "sentences": {k.kind: parts_json(k.sentence) for k in KINDS},
        "sizes": list(THREADS),
    }
