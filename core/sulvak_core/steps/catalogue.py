"""All kinds of step a designer can start, with what a new one holds at first and how it is called for."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, get_args

from ..part.threads import THREADS
from .registry import SENTENCES, AnyStep
from .sentence import parts_json


@dataclass(frozen=True)
class Start:
    """One action that starts a step. ``fresh``: its first content; ``first``: the slot to fill in first (dotted);
    ``needs``: what there must be (a sketch, a body, two bodies)."""

    action: str
    kind: str
    words: str
    keys: str
    group: str
    fresh: dict[str, Any] = field(default_factory=dict)
    first: str = ""
    needs: str = ""


TOP = {"kind": "datum", "plane": "top"}
X = {"kind": "axis", "axis": "x"}
RIGHT = {"kind": "datum", "plane": "right"}
ROUND = {"edges": [], "radius": "2"}
LEAN = {"faces": [], "angle": "2"}
DEPTH = {"kind": "depth", "depth": "10"}

STARTS: tuple[Start, ...] = (
    Start(
        "extrude", "extrude", "Extrude", "b e", "build", {"operation": "add", "extent": DEPTH}, "extent.depth", "sketch"
    ),
    Start("cut", "extrude", "Cut", "b c", "build", {"operation": "cut", "extent": DEPTH}, "extent.depth", "sketch"),
    Start("revolve", "revolve", "Revolve", "b r", "build", {"axis": {"kind": "line", "line": "y"}}, "angle", "sketch"),
    Start("hole", "hole", "Hole", "b h", "build", {}, "diameter", "sketch"),
    Start("pattern", "pattern", "Pattern", "b p", "build", {"form": "linear", "along": X}, "of", "body"),
    Start("mirror", "pattern", "Mirror", "b m", "build", {"form": "mirror", "plane": RIGHT}, "of", "body"),
    Start("text", "text", "Text", "b t", "build", {}, "face", "body"),
    Start("datum", "datum", "Datum", "b d", "build", {"form": "offset", "plane": TOP}, "distance"),
    Start("fillet", "fillet", "Round", "r f", "refine", {"groups": [ROUND]}, "groups.0.edges", "body"),
    Start("chamfer", "chamfer", "Chamfer", "r c", "refine", {"edges": []}, "edges", "body"),
    Start("draft", "draft", "Draft", "r d", "refine", {"neutral": TOP, "groups": [LEAN]}, "groups.0.faces", "body"),
    Start("shell", "shell", "Shell", "r s", "refine", {"faces": []}, "faces", "body"),
    Start("combine", "combine", "Combine", "r u", "bodies", {"tools": []}, "body", "bodies"),
    Start("split", "split", "Split", "r t", "bodies", {"plane": TOP}, "plane", "body"),
    Start("move", "move", "Move", "r m", "bodies", {"bodies": []}, "bodies", "body"),
    Start("remove", "remove", "Take out", "r x", "bodies", {"bodies": []}, "bodies", "bodies"),
)


def _defaults(kind: str) -> dict[str, Any]:
    """What the fields of a kind of step hold when nothing is said."""
    model = next(m for m in get_args(get_args(AnyStep)[0]) if m.model_fields["kind"].default == kind)
    fields = {n: f.get_default(call_default_factory=True) for n, f in model.model_fields.items() if not f.is_required()}
    return {n: v for n, v in fields.items() if n != "kind"}


def catalogue() -> dict[str, Any]:
    """Everything a screen needs to offer and edit steps, as plain data: ``starts``, the ``sentences`` by kind, thread
    ``sizes``."""
    return {
        "starts": [
            {
                "action": s.action,
                "kind": s.kind,
                "words": s.words,
                "keys": s.keys,
                "group": s.group,
                "fresh": {**_defaults(s.kind), **s.fresh},
                "first": s.first,
                "needs": s.needs,
            }
            for s in STARTS
        ],
        "sentences": {kind: parts_json(parts) for kind, parts in SENTENCES.items()},
        "sizes": list(THREADS),
    }
