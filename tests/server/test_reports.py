"""Inspection reports: read back by other readers, made anew for what the part is now, kept as they were."""

from __future__ import annotations

import io
from typing import Any

import openpyxl
import pypdfium2
import pytest
from django.db import transaction

from parts.models import KeptReport
from tests.conftest import Client, Part


def report(client: Client, path: str) -> bytes:
    status, data, headers = client.raw("GET", path)
    assert status == 200, data
    assert "attachment" in headers["Content-Disposition"]
    return data


def text_of(pdf: bytes) -> list[str]:
    document = pypdfium2.PdfDocument(pdf)
    return [page.get_textpage().get_text_range() for page in document]


def test_the_pdf_states_the_part_and_holds_the_table_and_the_sheet_with_its_balloons(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    first, *_, last = text_of(report(wren, f"{part.path}/inspection.pdf"))
    for words in ("Inspection of Tilt arm", "FKS-0302", "wren", "16 of 16", "between the end faces of step 20"):
        assert words in " ".join(first.split()), words
    assert first.count("proven") == 16 + 1  # every row, and the head
    assert "distance of line 4 to the vertical axis in Sketch 50" in " ".join(first.split())
    assert "FENMARSH KITE SURVEY" in last  # the sheet's own letters
    found = {w for w in last.split() if w.isdigit()}
    assert {str(n) for n in range(1, 17)} <= found  # its balloons


def test_the_workbook_holds_figures_as_numbers_and_no_formula(wren: Client) -> None:
    part = wren.part_named("Boom clamp")
    book = openpyxl.load_workbook(io.BytesIO(report(wren, f"{part.path}/inspection.xlsx")))
    rows = list(book["Sizes"].iter_rows(values_only=True))
    top = next(i for i, r in enumerate(rows) if r[0] == "balloon")
    head: dict[str, Any] = {str(r[0]): r[1] for r in rows[:top] if r[0]}
    assert head["part"] == "Boom clamp"
    body = [dict(zip(map(str, rows[top]), r, strict=True)) for r in rows[top + 1 :]]
    asked = wren.get(f"{part.path}/inspection")[1]["rows"]
    assert [b["balloon"] for b in body] == [a["number"] for a in asked]
    for told, row in zip(body, asked, strict=True):
        assert told["verdict"] == row["verdict"]
        if row["measured"] is not None:
            assert told["measured"] == pytest.approx(row["measured"])
    assert not any(str(v).startswith("=") for r in rows for v in r if v is not None)
    assert "Not spoken of" in book.sheetnames


def test_a_kept_report_stays_as_it_was(wren: Client) -> None:
    part = copy_of(wren, "Cross plate")
    assert wren.get(f"{part.path}/reports")[1] == []
    status, kept = wren.post(f"{part.path}/reports", {})
    assert status == 200, kept
    assert (kept["proven"], kept["judged"], kept["by"]) == (8, 8, "wren")
    before = {form: report(wren, f"{part.path}/reports/{kept['id']}.{form}") for form in ("pdf", "xlsx", "csv")}
    # the part goes on, and is wrong now
    version = wren.get(part.path)[1]["version"]
    part.do(do="set_callout", callout={"id": "b9", "number": 9, "text": "THE REST"})
    assert wren.get(part.path)[1]["version"] == version + 1
    after = {form: report(wren, f"{part.path}/reports/{kept['id']}.{form}") for form in ("pdf", "xlsx", "csv")}
    assert after == before
    assert b"THE REST" not in after["csv"]
    assert [k["id"] for k in wren.get(f"{part.path}/reports")[1]] == [kept["id"]]
    assert wren.raw("GET", f"{part.path}/reports/{kept['id']}.doc")[0] == 422
    assert wren.raw("GET", f"{part.path}/reports/999999.pdf")[0] == 404


def test_who_may_not_see_a_part_sees_no_report_and_who_only_looks_keeps_none(wren: Client, service: Any) -> None:
    part = copy_of(wren, "Cross plate")
    kept = wren.post(f"{part.path}/reports", {})[1]
    nobody = Client(service, None)
    assert nobody.raw("GET", f"{part.path}/reports/{kept['id']}.pdf")[0] in (401, 403)
    assert nobody.post(f"{part.path}/reports", {})[0] in (401, 403)


@pytest.mark.django_db
def test_the_database_keeps_a_report_from_being_changed() -> None:
    report = KeptReport(pk=1, version=1)
    with pytest.raises(ValueError, match="never changed"), transaction.atomic():
        report.save()


def copy_of(client: Client, name: str) -> Part:
    """A copy of a demo part, built."""
    part = client.copy(name, f"{name}, copied")
    part.built()
    return part
