"""Questions about the drawing that is made from a part, answered in a kernel process."""

import base64
import json
from typing import Any

from .worker_tools import WorkerTools


class DrawingQuestions(WorkerTools):
    """The drawing as the screen shows it, and as a file."""

    sheets: dict[str, Any]

    def _sheet(self, request: dict[str, Any]) -> tuple[Any, Any]:
        """The drawing of a part as it is built; the last one is kept, since it is mostly asked for again as a file."""
        from sulvak_core.drawing.sheet import draw

        document = self._document(request)
        made = self._build(document)
        told = document.model_dump_json(exclude={"steps", "sheet", "further"})
        key = f"{made.key} {request['owner']} {told}"
        if key not in self.sheets:
            self.sheets.clear()
            self.sheets[key] = draw(document, made, request["owner"])
        return document, self.sheets[key]

    def drawing_sheet(self, request: dict[str, Any]) -> str:
        """What stands on the drawing, with all that is drawn as SVG; a string of JSON."""
        from sulvak_core.drawing.told import told
        from sulvak_core.exchange.drawing_svg import drawing_svg

        document, sheet = self._sheet(request)
        return json.dumps({**told(sheet), "svg": drawing_svg(sheet, document.name).decode()})

    def drawing_sheet_file(self, request: dict[str, Any]) -> str:
        """The drawing as SVG, PDF or DXF; its bytes in base 64, as a string of JSON."""
        from sulvak_core.exchange.drawing_dxf import drawing_dxf
        from sulvak_core.exchange.drawing_pdf import drawing_pdf
        from sulvak_core.exchange.drawing_svg import drawing_svg

        document, sheet = self._sheet(request)
        write = {"svg": drawing_svg, "pdf": drawing_pdf, "dxf": drawing_dxf}[request["form"]]
        return json.dumps(base64.b64encode(write(sheet, document.name)).decode())
