"""The release pack: a ZIP of everything a shop needs of one revision, with a manifest that vouches for each file.

Made again from the same revision it is the same, byte for byte: files in one order, without times of their own, each
written by what is told of the revision alone.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any

from ..drawing.sheet import DrawnSheet, draw
from ..exchange import mesh_files, part_file, solid_files
from ..exchange.drawing_dxf import drawing_dxf
from ..exchange.drawing_pdf import drawing_pdf
from ..exchange.report_pdf import report_pdf
from ..exchange.report_sections import checks_section, mass_section
from ..exchange.view_out import as_dxf, face_drawn
from ..inspect.mass import mass
from ..inspect.method import as_csv, rows
from ..inspect.prove import prove
from ..making.checks import checked
from ..making.finding import Checked
from ..part.errors import Refusal
from ..part.shop import CheckName
from ..part.units import in_unit
from ..rebuild.engine import Build
from ..rebuild.state import State
from ..rebuild.version import KERNEL_VERSION
from ..solid.flat_bodies import flat_face
from ..solid.outline import ISOMETRIC, lines
from ..steps.registry import Document
from .conditions import conditions
from .manifest import Content, Looked, Release, entry, manifest
from .summary_pdf import summary_pdf

TIME = (2000, 1, 1, 0, 0, 0)  # of every file in the pack: none has one of its own
ENDINGS = {
    "image/svg+xml": "svg",
    "image/png": "png",
    "image/jpeg": "jpg",
    "application/pdf": "pdf",
    "image/vnd.dxf": "dxf",
}
CHECKS: tuple[CheckName, ...] = ("solid", "mould", "walls", "cutters")


def looked_over(document: Document, build: Build, owner: str, every: bool = False) -> Looked:
    """What must hold, with the checks that the part asks for, or ``every`` one."""
    build = _fresh(build)
    names = CHECKS if every else tuple(document.shop.asked)
    checks = {name: checked(document, build, name) for name in names}
    sheet, undrawn = None, ""
    try:
        sheet = draw(document, build, owner)
    except Refusal as refusal:
        undrawn = refusal.sentence
    return Looked(conditions(document, build, checks, sheet, undrawn), checks, sheet)


def _fresh(build: Build) -> Build:
    """The build with solids that have no triangles yet: those they were given to be looked at depend on what was looked
    at before."""
    return replace(build, state=State.from_bytes(build.state.to_bytes()))


def pack(
    document: Document,
    build: Build,
    release: Release,
    sheets: Sequence[tuple[bytes, str]] = (),
    looked: Looked | None = None,
) -> bytes:
    """The pack as a ZIP. ``sheets``: the file and media type of each sheet that the part was made from. Raises Refusal
    where a line that does not hold has no reason, or the part cannot be written."""
    document = document.model_copy(update={"revision": release.revision})
    build = _fresh(build)
    looked = looked or looked_over(document, build, release.owner, every=True)
    unsaid = [c.what for c in looked.conditions if not c.holds and not release.reasons.get(c.key, "").strip()]
    if unsaid:
        raise Refusal(f"Not released: {'; '.join(unsaid)}. Mend it, or say why it is released all the same.")
    if looked.sheet is None:
        raise Refusal("The drawing cannot be made, so there is no pack; see what it says on the drawing's page.")
    files = _files(document, build, release, looked, looked.sheet, sheets)
    told = manifest(document, build, release, looked)
    files["summary.pdf"] = (summary_pdf(told), "application/pdf", "one page that sums it up")
    told["files"] = [entry(path, *content) for path, content in sorted(files.items())]
    text = json.dumps(told, indent=1, ensure_ascii=False, sort_keys=True) + "\n"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as z:
        for path, data in [("manifest.json", text.encode()), *((p, c[0]) for p, c in sorted(files.items()))]:
            info = zipfile.ZipInfo(path, TIME)
            info.external_attr = 0o644 << 16
            info.create_system = 3
            z.writestr(info, data, zipfile.ZIP_DEFLATED, 6)
    return out.getvalue()


def _files(
    document: Document,
    build: Build,
    release: Release,
    looked: Looked,
    sheet: DrawnSheet,
    sheets: Sequence[tuple[bytes, str]],
) -> dict[str, Content]:
    state = build.state
    written = release.at.removesuffix("Z")
    found: dict[str, Content] = {
        "part.sulvak.json": (part_file.write(document).encode(), "application/json", "the part itself"),
        "solid.step": (solid_files.step(document, state, "AP242", written), "model/step", "the solid, AP242"),
        "solid.3mf": (mesh_files.threemf(document, state, None).data, "model/3mf", "the solid in triangles"),
        "drawing.pdf": (drawing_pdf(sheet, document.name), "application/pdf", "the drawing"),
        "drawing.dxf": (drawing_dxf(sheet, document.name), "image/vnd.dxf", "the drawing"),
    }
    for body in state.bodies:
        face = flat_face(body.shape)
        if face is not None:
            name = f"profile-{body.id}.dxf"
            found[name] = (
                as_dxf(face_drawn(state, body.id, face), document.unit),
                "image/vnd.dxf",
                f"flat profile of {body.title or 'the body'}, 1 : 1",
            )
    for n, (data, media_type) in enumerate(sheets, 1):
        found[f"sheet-{n}.{ENDINGS[media_type]}"] = (data, media_type, "a sheet that the part was made from")
    verdicts = prove(document, build)
    heading = {
        "part": document.name,
        "number": document.number,
        "revision": release.revision,
        "general tolerance": document.general_tolerance,
        "measured with": KERNEL_VERSION,
        "by": release.by,
        "on": release.at,
    }
    weighed = mass(document, state)
    came = [(c.check, c.passed, [in_unit(f.said, document.unit) for f in c.findings]) for c in looked.checks.values()]
    report = report_pdf(
        document,
        rows(document, verdicts),
        heading,
        (),
        lines([b.shape for b in state.bodies], *ISOMETRIC),
        sheets,
        lambda: [*mass_section(document, weighed), *checks_section(came)],
    )
    found["inspection.pdf"] = (report, "application/pdf", "inspection report")
    found["inspection.csv"] = (
        ("\ufeff" + as_csv(document, verdicts, heading)).encode(),
        "text/csv",
        "the same as a table",
    )
    checks = json.dumps([_check(document, c) for c in looked.checks.values()], indent=1, ensure_ascii=False)
    found["checks.json"] = (checks.encode() + b"\n", "application/json", "the checks of the shop")
    return found


def _check(document: Document, c: Checked) -> dict[str, Any]:
    return {
        "check": c.check,
        "passed": c.passed,
        "required": c.check in document.shop.asked,
        "limits": getattr(document.shop, c.check).model_dump(),
        "findings": [{**asdict(f), "said": in_unit(f.said, document.unit)} for f in c.findings],
        "figures": c.figures,
    }
