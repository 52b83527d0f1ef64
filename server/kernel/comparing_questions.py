"""Questions about a part beside another document of it, answered in a kernel process."""

import json
from dataclasses import asdict
from typing import Any

from .worker_tools import WorkerTools


class ComparingQuestions(WorkerTools):
    """What is another in one document than in another."""

    def compare(self, request: dict[str, Any]) -> tuple[str, list[tuple[str, bytes]]]:
        """The part held against another document: changes in words, what came and went with its volumes; the meshes."""
        from sulvak_core.inspect.compare import changes, volumes
        from sulvak_core.inspect.mass import grams
        from sulvak_core.rebuild.difference import difference
        from sulvak_core.steps.registry import load

        after, before = self._document(request), load(request["other"])
        new, old = self._build(after).state, self._build(before).state
        found = difference(old, new)
        told = {
            "changes": [asdict(c) for c in changes(before, after)],
            "volumes": volumes(found),
            "volume": [old.volume(), new.volume()],
            "grams": [grams(before, old), grams(after, new)],
            **{side: [p[0] for p in pieces[:40]] for side, pieces in found.items()},
        }
        files = [p[:2] for pieces in found.values() for p in pieces[:40]]
        if request.get("whole"):
            made = self._build(after)
            pictures = [self._picture(after, made.key, body) for body in made.state.bodies]
            told["bodies"] = [{"key": key, **head} for key, head, _ in pictures]
            files += [(key, mesh) for key, _, mesh in pictures]
        return json.dumps(told), files
