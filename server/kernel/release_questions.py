"""Questions about releases, answered in a kernel process."""

import base64
import json
from typing import Any

from .worker_tools import WorkerTools


class ReleaseQuestions(WorkerTools):
    """A part looked over before it is released, and its pack."""

    def look_over(self, request: dict[str, Any]) -> str:
        """Every line that must hold, as a string of JSON."""
        from sulvak_core.release.conditions import plain
        from sulvak_core.release.pack import looked_over

        document = self._document(request).model_copy(update={"revision": request["letter"]})
        looked = looked_over(document, self._build(document), request["owner"])
        return json.dumps(plain(looked.conditions))

    def pack(self, request: dict[str, Any]) -> str:
        """The release pack, in base 64, as a string of JSON."""
        from sulvak_core.release.manifest import Release
        from sulvak_core.release.pack import pack

        release = Release(**request["release"])
        document = self._document(request).model_copy(update={"revision": release.revision})
        return json.dumps(base64.b64encode(pack(document, self._build(document), release, request["sheets"])).decode())
