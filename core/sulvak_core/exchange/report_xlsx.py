"""An inspection report as a workbook (Office Open XML): the head, every size, what no callout speaks of."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

import xlsxwriter

from ..part.units import MM_PER
from ..steps.registry import Document

COLUMNS = (
    ("balloon", 8), ("callout", 26), ("page", 6), ("unit", 6), ("nominal", 10), ("lower", 10), ("upper", 10),
    ("measured", 11), ("deviation", 11), ("verdict", 11), ("remark", 34), ("method", 60),
)  # fmt: skip


def report_xlsx(
    document: Document, rows: Sequence[Mapping[str, Any]], heading: Mapping[str, str], uncovered: Sequence[str] = ()
) -> bytes:
    """The workbook; lengths in the part's unit, figures as numbers, texts never taken for formulas."""
    out = io.BytesIO()
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    book = xlsxwriter.Workbook(out, options)
    book.set_properties({"title": f"Inspection of {document.name}", "created": datetime(2026, 1, 1, tzinfo=UTC)})
    bold, wrap = book.add_format({"bold": True}), book.add_format({"text_wrap": True, "valign": "top"})
    sheet = book.add_worksheet("Sizes")
    for n, (name, value) in enumerate(heading.items()):
        sheet.write_string(n, 0, name, bold)
        sheet.write_string(n, 1, value)
    top = len(heading) + 1
    for k, (name, wide) in enumerate(COLUMNS):
        sheet.write_string(top, k, name, bold)
        sheet.set_column(k, k, wide)
    tones = {
        "proven": book.add_format({"font_color": "#0D7063", "valign": "top"}),
        "out": book.add_format({"font_color": "#B83720", "bold": True, "valign": "top"}),
    }
    for n, r in enumerate(rows, top + 1):
        per = MM_PER[document.unit] if r["unit"] == "mm" else 1.0
        sheet.write_number(n, 0, r["number"], wrap)
        sheet.write_string(n, 1, r["text"], wrap)
        if r["page"]:
            sheet.write_number(n, 2, r["page"], wrap)
        sheet.write_string(n, 3, document.unit if r["unit"] == "mm" else r["unit"], wrap)
        for column, name in enumerate(("nominal", "lower", "upper", "measured", "deviation"), 4):
            if r[name] is not None:
                sheet.write_number(n, column, round(r[name] / per, 9), wrap)
        sheet.write_string(n, 9, r["verdict"], tones.get(r["verdict"], wrap))
        sheet.write_string(n, 10, r["said"], wrap)
        sheet.write_string(n, 11, r["how"], wrap)
    sheet.freeze_panes(top + 1, 2)
    if rows:
        sheet.autofilter(top, 0, top + len(rows), len(COLUMNS) - 1)
    sheet.set_landscape()
    sheet.fit_to_pages(1, 0)
    other = book.add_worksheet("Not spoken of")
    other.set_column(0, 0, 90)
    other.write_string(0, 0, "sizes of the part that no callout speaks of", bold)
    for n, what in enumerate(uncovered, 1):
        other.write_string(n, 0, what)
    book.close()
    return out.getvalue()
