"""A part held against its callouts as a table: limits, deviations, how each was measured, what nothing speaks of."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.inspect.method import as_csv, rows
from sulvak_core.inspect.prove import prove
from sulvak_core.steps.value_table import value_table

from .parts import Made, plate

DEMO = Path(__file__).resolve().parents[2] / "demo"


def inspected(*callouts: tuple[str, str, str]) -> Made:
    """A plate 40 × 30 × 10 with callouts (text, step, field); those without a step feed nothing."""
    made = plate()
    for n, (text, step, field) in enumerate(callouts, 1):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
        if step:
            made.do("link_callout", callout=f"b{n}", step=step, field=field)
    return made


def test_limits_deviations_and_how() -> None:
    made = inspected(("40 ±0.1", "s1", "d1"), ("10 +0.2/0", "s2", "depth"), ("R3 MAX", "", ""), ("BREAK EDGES", "", ""))
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "40.05"})
    one, two, three, note = rows(made.document, prove(made.document, made.build()))
    assert (one["nominal"], one["lower"], one["upper"]) == (40, pytest.approx(39.9), pytest.approx(40.1))
    assert (one["measured"], one["deviation"]) == (pytest.approx(40.05), pytest.approx(0.05))
    assert (one["verdict"], one["how"]) == ("proven", "between the walls at the ends of line 1 (sketch 10)")
    assert (two["lower"], two["upper"], two["deviation"]) == (10, pytest.approx(10.2), 0)
    assert two["how"] == "between the end faces of step 20, along its direction"
    assert (three["lower"], three["upper"], three["verdict"], three["how"]) == (None, 3, "open", "")
    assert (note["unit"], note["nominal"], note["verdict"]) == ("", None, "note")


def test_the_table_is_read_back_by_a_csv_reader() -> None:
    made = inspected(("40 ±0.1", "s1", "d1"), ("=SUM(A1)", "", ""))
    text = as_csv(made.document, prove(made.document, made.build()), {"part": "+Plate, “A”", "revision": "A"})
    table = list(csv.reader(io.StringIO(text)))
    assert table[0] == ["part", "'+Plate, “A”"]
    head, first, second = table[3:]
    row = dict(zip(head, first, strict=True))
    assert (row["balloon"], row["callout"], row["nominal"], row["lower"]) == ("1", "40 ±0.1", "40", "39.9")
    assert (row["measured"], row["deviation"], row["verdict"]) == ("40", "0", "proven")
    assert second[1] == "'=SUM(A1)"  # no table program takes it for a formula


def test_an_inch_part_reports_inches() -> None:
    made = plate(unit="in")
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "1.5"})
    text = as_csv(made.document, [], {})
    assert "1,1.5,,in,1.5,1.5,1.5,,,open" in text


@pytest.mark.parametrize("name", ["tilt-arm", "line-cleat", "pod-lid", "boom-clamp"])
def test_every_proven_size_says_how(name: str) -> None:
    document = part_file.read((DEMO / f"{name}.json").read_text())
    verdicts = [{"callout": c.id, "state": "proven", "said": "", "measured": None} for c in document.callouts]
    told = rows(document, verdicts)
    assert all(r["how"] for r in told if r["nominal"] is not None)
    assert [r["number"] for r in told] == sorted(r["number"] for r in told)


def test_what_no_callout_speaks_of() -> None:
    made = inspected(("40", "s1", "d1"))
    sources = {(r["step"], r["path"]): r["callout"] for r in value_table(made.document) if r["step"]}
    assert sources["s1", "d1"] == "b1"
    assert [k for k, v in sources.items() if v is None] == [("s1", "d2"), ("s2", "extent.depth")]


def test_a_holes_callout_speaks_of_all_it_asks_for() -> None:
    document = part_file.read((DEMO / "boom-clamp.json").read_text())
    source = next(c.id for c in document.callouts if "⌴" in c.text)
    step = next(c.link.step for c in document.callouts if c.id == source and c.link)
    from_it = {r["path"] for r in value_table(document) if r["step"] == step and r["callout"] == source}
    assert from_it == {"diameter", "bore_diameter", "bore_depth"}
