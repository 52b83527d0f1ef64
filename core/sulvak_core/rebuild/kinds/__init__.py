"""The kernel's side of each kind of step, a module a kind; sketches are the run's own."""

from collections.abc import Callable
from typing import Any

from ..context import Context
from . import (
    body,
    chamfer,
    combine,
    datum,
    draft,
    extrude,
    fillet,
    hole,
    import_file,
    move,
    pattern,
    remove,
    revolve,
    rib,
    shell,
    split,
    text,
)

Work = Callable[[Context, Any, Any], None]

WORK: dict[str, Work] = {
    "extrude": extrude.work,
    "revolve": revolve.work,
    "rib": rib.work,
    "hole": hole.work,
    "text": text.work,
    "pattern": pattern.work,
    "fillet": fillet.work,
    "chamfer": chamfer.work,
    "draft": draft.work,
    "shell": shell.work,
    "import": import_file.work,
    "combine": combine.work,
    "split": split.work,
    "move": move.work,
    "remove": remove.work,
    "body": body.work,
    "datum": datum.work,
}
