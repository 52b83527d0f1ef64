"""The demo's nine parts with the texts of their callouts as their sheets say them, whatever file these come in."""

from __future__ import annotations

from pathlib import Path

import pytest

from sulvak_core.exchange.sheet_files import sheet_reading
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.inspect.prove import prove
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.proposals import proposals
from tests.sheets import as_dxf, as_pdf

from .test_sheet_lines import DEMO, made, whole

SHEETS = sorted(p.stem for p in DEMO.glob("*.svg"))


def drawn_as(kind: str, file: Path) -> tuple[bytes, str]:
    data = file.read_bytes()
    if kind == "dxf":
        return as_dxf(read_svg_page(data)), "image/vnd.dxf"
    return (as_pdf(read_svg_page(data)), "application/pdf") if kind == "pdf" else (data, "image/svg+xml")


@pytest.mark.parametrize("name", SHEETS)
@pytest.mark.parametrize("kind", ["svg", "dxf", "pdf"])
def test_every_callout_is_read_and_proven(name: str, kind: str) -> None:
    document = whole(name)
    bare = [c.model_copy(update={"text": ""}) for c in document.callouts]
    said, _ = sheet_reading(*drawn_as(kind, DEMO / f"{name}.svg"), 0)
    read = proposals(said, 0, document.callouts, document.unit)
    texts = {s["callout"]: s["text"] for s in (*read["sizes"], *read["notes"]) if s["callout"]}
    told = [c.model_copy(update={"text": texts.get(c.id, "")}) for c in bare]
    assert all(c.text for c in told), [c.number for c in told if not c.text]
    sizes = [c for c in told if parse(c.text, document.unit).kind != "note"]
    assert len(read["sizes"]) == len(sizes)  # and nothing is read that is none
    verdicts = prove(document.model_copy(update={"callouts": told}), made(document))
    states = {v["callout"]: v["state"] for v in verdicts}
    assert {states[c.id] for c in sizes} == {"proven"}, states
