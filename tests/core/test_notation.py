"""Callout text read into requirements."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.requirement import said

CASES = [
    ("35", {"kind": "linear", "nominal": 35, "count": 1, "toleranced": False}),
    ("48 ±0.1", {"kind": "linear", "nominal": 48, "upper": 0.1, "lower": -0.1, "toleranced": True}),
    ("35 +0.1/-0.05", {"kind": "linear", "upper": 0.1, "lower": -0.05}),
    ("35 +/-0.1", {"upper": 0.1, "lower": -0.1}),
    ("3X Ø3.4 THRU", {"kind": "diameter", "nominal": 3.4, "count": 3, "through": True}),
    ("2x ⌀6.5 thru", {"kind": "diameter", "nominal": 6.5, "count": 2, "through": True}),
    ("⌀8 ↧ 5", {"kind": "diameter", "nominal": 8, "depth": 5, "through": False}),
    ("Ø8 DEEP 5", {"kind": "diameter", "depth": 5}),
    ("R6", {"kind": "radius", "nominal": 6}),
    ("2X R9", {"kind": "radius", "nominal": 9, "count": 2}),
    ("(42)", {"kind": "linear", "nominal": 42, "reference": True}),
    ("30°", {"kind": "angle", "nominal": 30}),
    ("45° ±0.5°", {"kind": "angle", "nominal": 45, "upper": 0.5, "lower": -0.5}),
    ("2×45°", {"kind": "chamfer", "nominal": 2, "angle": 45, "count": 1}),
    ('1 1/4"', {"kind": "linear", "nominal": pytest.approx(31.75)}),
    ("3/4 in ±0.01", {"kind": "linear", "nominal": pytest.approx(19.05)}),
    ("12,5", {"kind": "linear", "nominal": 12.5}),
    ("BREAK ALL EDGES", {"kind": "note", "nominal": None}),
    ("Ø8 ⌴ Ø14 ↧ 5", {"kind": "diameter", "nominal": 8, "bore": 14, "bore_depth": 5, "depth": None}),
    ("2X Ø5.5 THRU ⌴ Ø10 ↧ 5.7", {"count": 2, "through": True, "bore": 10, "bore_depth": 5.7}),
    ("Ø5.5 ↧ 12 CBORE 10 DEEP 5", {"depth": 12, "bore": 10, "bore_depth": 5}),
    ("4X Ø4.5 THRU ⌵ Ø9 × 90°", {"count": 4, "sink": 9, "sink_angle": 90, "through": True}),
    ("Ø4.5 ±0.1 THRU CSK Ø9x82°", {"upper": 0.1, "sink": 9, "sink_angle": 82}),
    ("M6 THRU", {"kind": "thread", "thread": "M6", "nominal": 6, "through": True}),
    ("4X M5 ↧ 12", {"kind": "thread", "thread": "M5", "count": 4, "depth": 12}),
    ("M5x0.8-6H THRU", {"kind": "thread", "thread": "M5"}),
    ("M10×1.25 THRU", {"kind": "thread", "thread": "M10x1.25"}),
    ("2X 1/4-20 UNC THRU", {"kind": "thread", "thread": "1/4-20", "count": 2, "nominal": 6.35}),
    ("M7 THRU", {"kind": "note"}),  # not in the tables
    ("M5x3 THRU", {"kind": "note"}),
    ("R8 ⌴ Ø14 ↧ 5", {"kind": "note"}),
    ("35 ⌵ Ø9", {"kind": "note"}),
    ("", {"kind": "note"}),
    ("R", {"kind": "note"}),
    ("Ø0", {"kind": "note"}),
]


@pytest.mark.parametrize(("text", "wanted"), CASES)
def test_cases(text: str, wanted: dict) -> None:
    r = parse(text)
    assert {k: getattr(r, k) for k in wanted} == wanted
    assert said(r)


def test_inch_sheets_read_inches() -> None:
    assert parse("1.5 ±0.005", "in").nominal == pytest.approx(38.1)
    assert parse("1.5 ±0.005", "in").upper == pytest.approx(0.127)
    assert parse("20 mm", "in").nominal == 20


@given(st.text(max_size=50))
def test_any_text_is_read_or_a_note(text: str) -> None:
    r = parse(text)
    assert r.kind == "note" or r.nominal is not None
