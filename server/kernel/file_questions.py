"""A part asked for as a file, written in a kernel process."""

from typing import Any

from .worker_tools import WorkerTools


class FileQuestions(WorkerTools):
    """Solids and triangles; faces, views and sections as drawings."""

    def export(self, request: dict[str, Any]) -> tuple[bytes, dict[str, Any] | None]:
        """A file of the part; with one of triangles how many there are, and how far they lie off the part (mm)."""
        from sulvak_core.exchange import mesh_files, solid_files

        document = self._document(request)
        state = self._build(document).state
        form, deviation = request["form"], request["deviation"]
        if form in ("step", "step242"):
            return solid_files.step(document, state, "AP242" if form == "step242" else "AP214"), None
        write = {
            "stl": mesh_files.stl,
            "stl-text": mesh_files.stl_text,
            "3mf": mesh_files.threemf,
            "glb": mesh_files.glb,
        }[form]
        made = write(document, state, deviation)
        return made.data, {"triangles": made.triangles, "deviation": made.deviation}

    def drawn(self, request: dict[str, Any]) -> str:
        """A face, a view or a section as DXF or SVG, as a string of JSON."""
        import json

        from sulvak_core.exchange import view_out

        document = self._document(request)
        state = self._build(document).state
        if request["what"] == "face":
            found = view_out.face_drawn(state, request["body"], request["face"])
        elif request["what"] == "view":
            found = view_out.view_drawn(state, request["side"], request["hidden"])
        else:
            found = view_out.section_drawn(state, request["side"], request["at"])
        if request["form"] == "dxf":
            return json.dumps(view_out.as_dxf(found, document.unit).decode())
        return json.dumps(view_out.as_svg(found, document.name).decode())
