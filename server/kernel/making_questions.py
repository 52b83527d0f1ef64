"""Questions about whether a part can be made, answered in a kernel process."""

import hashlib
import json
import struct
import zlib
from collections import OrderedDict
from dataclasses import asdict
from typing import Any

from .worker_tools import WorkerTools, painted

KEPT = 24  # answers by content in memory; the store has more of them
READ_AS = 1  # to be raised when a check says something else of the same part


def _closed(text: str, files: list[tuple[str, bytes]]) -> bytes:
    """An answer and its files as bytes."""
    head = json.dumps({"text": text, "files": [(key, len(data)) for key, data in files]}).encode()
    return zlib.compress(struct.pack("<I", len(head)) + head + b"".join(data for _, data in files), 1)


def _opened(data: bytes | None) -> tuple[str, list[tuple[str, bytes]]] | None:
    if data is None:
        return None
    plain = zlib.decompress(data)
    at = 4 + int(struct.unpack_from("<I", plain)[0])
    head = json.loads(plain[4:at])
    files = []
    for key, size in head["files"]:
        files.append((key, plain[at : at + size]))
        at += size
    return head["text"], files


class MakingQuestions(WorkerTools):
    """The checks of the shop."""

    checks: OrderedDict[str, tuple[str, list[tuple[str, bytes]]]]

    def check(self, request: dict[str, Any]) -> tuple[str, list[tuple[str, bytes]]]:
        """One check of the part: JSON of what was found, and what is painted on it as a file of its own."""
        document = self._document(request)
        made = self._build(document)
        name = request["check"]
        limits = getattr(document.shop, name).model_dump_json()
        order = ",".join(s.id for s in document.steps)
        asked = f"{made.key} {name} {limits} {document.unit} {order} {[b.title for b in made.state.bodies]}"
        key = "c" + hashlib.sha256(f"{READ_AS} {asked}".encode()).hexdigest()
        if key not in self.checks:
            found = _opened(self.cache.store.get(key))
            if found is None:
                found = self._checked(document, made, name, key)
                self.cache.store.put(key, _closed(*found))
            self.checks[key] = found
            while len(self.checks) > KEPT:
                self.checks.popitem(last=False)
        self.checks.move_to_end(key)
        return self.checks[key]

    def _checked(self, document: Any, made: Any, name: str, key: str) -> tuple[str, list[tuple[str, bytes]]]:
        from sulvak_core.making.checks import checked
        from sulvak_core.part.units import in_unit
        from sulvak_core.steps.shared import title

        found = checked(document, made, name, self._told)  # type: ignore[arg-type]
        steps = {s.id: s for s in document.steps}

        def told(finding: Any) -> dict[str, Any]:
            step = steps.get(finding.step) if finding.step else None
            named = {"step_number": document.position(step.id), "step_title": title(document, step)} if step else {}
            said = in_unit(finding.said, document.unit)
            return {"step_number": None, "step_title": "", **asdict(finding), **named, "said": said}

        files = []
        if found.paint is not None:
            files.append((key, painted(found.paint)))
        bands = [{**asdict(b), "said": in_unit(b.said, document.unit)} for b in found.bands]
        answer = {
            "check": name,
            "passed": found.passed,
            "findings": [told(f) for f in found.findings],
            "bands": bands,
            "figures": found.figures,
            "paint": key if files else None,
        }
        return json.dumps(answer), files
