"""Questions about meshes held beside a part, answered in a kernel process."""

import hashlib
import json
from dataclasses import asdict
from typing import Any

from .worker_tools import WorkerTools, painted

MISSING = "This mesh's file is not here; bring it in again."


class ReferenceQuestions(WorkerTools):
    """Meshes from outside: read, held against the part, laid on it."""

    meshes_read: dict[str, Any]

    def _mesh(self, digest: str) -> Any:
        """A mesh by its file; the last one is kept, since mostly it is asked for again."""
        from sulvak_core.meshes.read import read_mesh
        from sulvak_core.part.errors import Refusal

        if not self.cache.has_file(digest):  # it may be in memory for a workspace that has it
            raise Refusal(MISSING)
        if digest not in self.meshes_read:
            data = self.cache.file(digest)
            if data is None:
                raise Refusal(MISSING)
            self.meshes_read.clear()
            self.meshes_read[digest] = read_mesh(data)
        return self.meshes_read[digest]

    def _held(self, request: dict[str, Any]) -> tuple[Any, Any, Any]:
        """The bodies of the part, the mesh as it is read, and how it is placed."""
        from sulvak_core.part.errors import Refusal

        document = self._document(request)
        asked = next((m for m in document.references if m.id == request["mesh"]), None)
        if asked is None:
            raise Refusal("This mesh is no longer beside the part.")
        return self._build(document).state.bodies, self._mesh(asked.file), asked

    def mesh_in(self, request: dict[str, Any]) -> str:
        """What a file of triangles holds, as JSON: unit where it says one, triangles, notes."""
        found = self._mesh(request["file"])
        told = {"unit": found.unit, "triangles": len(found.triangles), "notes": found.notes, "names": found.names}
        return json.dumps(told)

    def mesh_compared(self, request: dict[str, Any]) -> tuple[str, list[tuple[str, bytes]]]:
        """A mesh held against the part: figures as JSON, and what is painted on the mesh and on the part."""
        from sulvak_core.meshes.compare import compare

        bodies, found, asked = self._held(request)
        made = compare(bodies, found, asked)
        files = []
        for paint in (made.mesh, made.part):
            data = painted(paint)
            files.append(("m" + hashlib.sha256(data).hexdigest(), data))
        told = {
            "figures": made.figures,
            "worst": [asdict(w) for w in made.worst],
            "notes": made.notes,
            "names": found.names,
            "on_mesh": files[0][0],
            "on_part": files[1][0],
        }
        return json.dumps(told), files

    def mesh_fitted(self, request: dict[str, Any]) -> str:
        """Where a mesh lies on the part best, as JSON."""
        from sulvak_core.meshes.fit import fit

        return json.dumps(asdict(fit(*self._held(request))))
