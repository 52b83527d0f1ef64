"""The sizes of vector sheets, read: the demo's own sheets whole, and one thing at a time on small ones."""

from __future__ import annotations

import json
import math
from collections import Counter
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.page import Stroke, as_json, from_json
from sulvak_core.sheet.proposals import kept
from sulvak_core.sheet.reading import Reading, read

DEMO = Path(__file__).resolve().parents[2] / "demo"
SHEETS = sorted(p.stem for p in DEMO.glob("*.svg"))


def sheet(inside: str, width: float = 297, height: float = 210) -> bytes:
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">'
    )
    return f"{head}{inside}</svg>".encode()


def text(x: float, y: float, words: str, size: float = 3.5, more: str = "") -> str:
    return f'<text x="{x}" y="{y}" font-size="{size}" text-anchor="middle" {more}>{words}</text>'


def rect(x: float, y: float, w: float, h: float) -> str:
    path = f"M{x} {y}H{x + w}V{y + h}H{x}Z"
    return f'<path d="{path}" fill="none" stroke="black" stroke-width="0.3"/>'


def said(inside: str, unit: str = "mm") -> list[str]:
    return sorted(s.text for s in page(inside, unit).sizes)


def page(inside: str, unit: str = "mm") -> Reading:
    return read(read_svg_page(sheet(inside)), unit)  # type: ignore[arg-type]


PLAIN = [
    '<path d="M1 2L3 4H9V8Z L5 5" stroke="black" fill="none" stroke-width="0.3" stroke-dasharray="3 1.2"/>',
    '<g id="outer" stroke="#222" fill="#fff"><g id="inner" stroke-width="2"><path d="M1,2 3,4 -5.5,1e1"/></g></g>',
    '<path d="M1 2L30 4L9 20Z"/><path d="M1 2L30 4" stroke="none" fill="none"/><path d="M2 2L5 5" fill="none"/>',
    '<line x1="1" y1="2" x2="30" y2="40" stroke="red" id="of-it"/><line x2="4" stroke="black"/>',
    '<g transform="translate(5 5)" stroke="black"><path d="M1 2L30 4"/></g>',
    '<style>path { stroke: black }</style><path d="M1 2L30 4" fill="none"/>',
    '<defs><path id="p" d="M1 2L30 4" stroke="black"/></defs><use href="#p" x="4"/>',
    '<g id="q" stroke="black"><path d="M1 2L30 4"/></g><use href="#q" x="4"/>',
    '<path d="m1 2l30 4" stroke="black"/><path d="M1 2C3 4 5 6 7 9" stroke="black"/>',
    '<path d="M1 2L30 4" stroke="black" style="display:none"/><path d="M1 2L30 4" stroke="black" opacity="0.5"/>',
    '<path d="M1 2 L30 4 5 6M8 8H12" stroke="black" fill="white" stroke-width="3mm"/><path d="M1 2L1 2"/>',
]


@pytest.mark.parametrize("inside", [*PLAIN, *SHEETS], ids=[*map(str, range(len(PLAIN))), *SHEETS])
def test_plain_shapes_are_the_same_as_by_the_library(inside: str, monkeypatch: pytest.MonkeyPatch) -> None:
    data = (DEMO / f"{inside}.svg").read_bytes() if inside in SHEETS else sheet(inside)

    def strokes() -> Counter[Stroke]:
        def to_compare(s: Stroke) -> Stroke:
            points = tuple((round(x, 6), round(y, 6)) for x, y in s.points)
            return replace(s, points=points, width=round(s.width, 9), dash=tuple(round(v, 9) for v in s.dash))

        return Counter(map(to_compare, read_svg_page(data).strokes))

    own = strokes()
    monkeypatch.setattr("sulvak_core.exchange.sheet_svg.take_plain", lambda *_: [])
    other = strokes()
    assert not own - other
    assert not other - own


@pytest.mark.parametrize("name", SHEETS)
def test_the_demo_sheets_are_read_whole(name: str) -> None:
    """Every size that was ballooned by hand, understood the same, and nothing else."""
    found = read(read_svg_page((DEMO / f"{name}.svg").read_bytes()))
    callouts = json.loads((DEMO / f"{name}.json").read_text())["callouts"] or _callouts_of_the_finished(name)
    meant = [parse(c["text"]) for c in callouts]
    by_hand = sorted(r.model_dump_json() for r in meant if r.kind != "note")
    assert sorted(s.requirement.model_dump_json() for s in found.sizes) == by_hand
    notes = {n.text for n in found.notes}
    assert {c["text"] for c, r in zip(callouts, meant, strict=True) if r.kind == "note"} <= notes
    assert any(n.startswith("MASS") for n in notes)
    assert (found.scale, found.unit) == (1.0, "mm")


def _callouts_of_the_finished(name: str) -> list[dict[str, str]]:
    found: list[dict[str, str]] = json.loads((DEMO / "finished" / f"{name}.json").read_text())["callouts"]
    return found


def test_pieces_of_a_line_are_one_and_chains_stay_apart() -> None:
    assert said(text(50, 50, "3X") + text(58, 50, "Ø3.4") + text(67, 50, "THRU")) == ["3X Ø3.4 THRU"]
    assert said(text(50, 50, "18") + text(56.5, 50, "74")) == ["18", "74"]
    assert said(text(50, 50, "18") + text(80, 50, "THRU")) == ["18"]


def test_a_callout_of_several_lines() -> None:
    two = text(50, 50, "2X Ø5.5 THRU") + text(50, 55, "⌴ Ø10 ↧ 5.5")
    assert said(two) == ["2X Ø5.5 THRU ⌴ Ø10 ↧ 5.5"]
    three = text(50, 50, "4X Ø4.2 ↧ 16") + text(50, 55, "M5-6H ↧ 12") + text(50, 60, "EQ SP ON Ø40 BC")
    (found,) = page(three).sizes
    assert (found.requirement.thread, found.requirement.circle, found.requirement.depth) == ("M5", 40, 12)


def test_sizes_below_one_another_stay_apart() -> None:
    assert said(text(50, 50, "R6") + text(50, 55, "R9")) == ["R6", "R9"]
    assert said(text(50, 50, "12.5") + text(50, 56, "40.5")) == ["12.5", "40.5"]


def test_limits_one_over_the_other() -> None:
    (found,) = page(text(50, 50, "12.02") + text(50, 54, "11.98")).sizes
    assert (found.requirement.nominal, found.requirement.upper) == (pytest.approx(12), pytest.approx(0.02))


def test_tolerances_set_small_behind_a_size() -> None:
    small = text(57, 48, "+0.1", 2) + text(57.3, 50.5, "-0.05", 2)
    (found,) = page(text(50, 50, "Ø48") + small).sizes
    r = found.requirement
    assert (r.kind, r.nominal, r.upper, r.lower) == ("diameter", 48, 0.1, -0.05)
    (one,) = page(text(50, 50, "48") + text(56, 48, "+0.1", 2) + text(55.2, 50.5, "0", 2)).sizes
    assert (one.requirement.upper, one.requirement.lower) == (0.1, 0)


@pytest.mark.parametrize("turn", [0, -90, 90, 180])
def test_a_frame_makes_a_size_exact(turn: int) -> None:
    group = f'<g transform="rotate({turn} 100 100)">'
    assert said(f"{group}{text(100, 100, '50')}{rect(96, 96, 8, 5.2)}</g>") == ["[50]"]
    assert said(f"{group}{text(100, 100, '50')}{rect(70, 80, 60, 40)}</g>") == ["50"]


def test_numbers_of_earlier_balloons_are_no_sizes() -> None:
    ring = '<circle cx="50" cy="48.9" r="4" fill="none" stroke="black"/>'
    assert said(ring + text(50, 50, "7")) == []
    assert said('<circle cx="50" cy="49" r="20" fill="none" stroke="black"/>' + text(50, 50, "7")) == ["7"]


def test_the_frame_and_what_hangs_on_it_hold_notes() -> None:
    frame = rect(10, 10, 277, 190)
    block = rect(187, 170, 100, 30) + '<path d="M187 185H287M240 170V200" stroke="black"/>'
    zones = text(50, 7, "2") + text(5, 100, "3")
    found = page(frame + block + zones + text(220, 180, "12") + text(260, 195, "1:2") + text(100, 100, "30"))
    assert [s.text for s in found.sizes] == ["30"]
    assert {"12", "1:2", "2", "3"} <= {n.text for n in found.notes}
    assert found.scale == 0.5


def test_a_title_block_that_stands_free() -> None:
    rows = "".join(f"M180 {y}H280" for y in (150, 160, 170, 180))
    block = f'<path d="{rows}M180 150V180M230 150V180M280 150V180" fill="none" stroke="black"/>'
    inside = text(200, 156, "TITLE") + text(250, 156, "12") + text(200, 166, "SCALE 1:5") + text(250, 166, "40")
    found = page(block + inside + text(100, 100, "30") + rect(80, 60, 40, 30))
    assert [s.text for s in found.sizes] == ["30"]
    assert found.scale == 0.2


def test_the_page_says_its_unit_and_general_tolerance() -> None:
    found = page(text(60, 20, "ALL DIMENSIONS IN INCHES") + text(100, 100, "1.5") + text(60, 30, ".XX ±.01 .XXX ±.005"))
    assert found.sizes[0].requirement.nominal == pytest.approx(38.1)
    assert (found.unit, found.general) == ("in", ".XX ±.01 .XXX ±.005")


def test_texts_are_where_they_are_drawn() -> None:
    spans = '<text x="40" y="60" font-size="4"><tspan>3X</tspan> <tspan x="40" dy="5">R2</tspan></text>'
    moved = f'<g transform="translate(10 20) scale(2)">{text(30, 30, "Ø8", 2)}</g>'
    found = {s.text: s for s in page(spans + moved + text(200, 50, "44", 3.5, 'transform="rotate(-90 200 50)"')).sizes}
    k = 72 / 25.4
    assert found["Ø8"].box[0] < 70 * k < found["Ø8"].box[2]
    assert found["44"].turn == pytest.approx(-90)
    assert found["44"].box[3] - found["44"].box[1] > found["44"].box[2] - found["44"].box[0]
    assert "R2" in found


def test_what_is_not_shown_is_not_read() -> None:
    hidden = f'<g style="display:none">{text(50, 50, "10")}</g><defs>{text(60, 60, "11")}</defs>'
    assert said(hidden + text(70, 70, "12", 3.5, 'visibility="hidden"') + text(80, 80, "13")) == ["13"]


def test_strokes_come_in_points_with_their_look() -> None:
    inside = (
        '<path d="M0 0H10" stroke="black" stroke-width="0.5" stroke-dasharray="3 1"/>'
        '<path d="M0 50A10 10 0 0 1 20 50" fill="none" stroke="black"/>'
        '<circle cx="50" cy="50" r="5" stroke="black" fill="none"/><path d="M0 0L1 1L2 0Z" fill="black"/>'
    )
    line, *arrow, arc, circle = read_svg_page(sheet(inside)).strokes
    k = 72 / 25.4
    assert (line.width, line.dash) == (pytest.approx(0.5 * k), (pytest.approx(3 * k), pytest.approx(k)))
    assert line.length() == pytest.approx(10 * k)
    assert (arc.kind, arc.radius, arc.length()) == ("arc", pytest.approx(10 * k), pytest.approx(math.pi * 10 * k))
    assert arc.box() == pytest.approx((0, 40 * k, 20 * k, 50 * k), abs=1e-6)
    assert (circle.kind, circle.centre) == ("circle", (pytest.approx(50 * k), pytest.approx(50 * k)))
    assert [s.filled for s in arrow] == [True] * 3


@given(st.floats(-6, 6), st.floats(-6.2, 6.2).filter(lambda s: abs(s) > 0.01), st.floats(0.1, 100))
def test_the_box_of_an_arc_holds_it_closely(start: float, sweep: float, r: float) -> None:
    def at(turn: float) -> tuple[float, float]:
        return 3 + r * math.cos(turn), 4 + r * math.sin(turn)

    box = Stroke("arc", (at(start), at(start + sweep)), (3, 4), r, sweep).box()
    xs, ys = zip(*(at(start + sweep * k / 400) for k in range(401)), strict=True)
    assert box == pytest.approx((min(xs), min(ys), max(xs), max(ys)), abs=2e-4 * r + 1e-9)


def test_a_page_is_kept_and_read_back() -> None:
    for name in SHEETS:
        whole = read_svg_page((DEMO / f"{name}.svg").read_bytes())
        assert from_json(json.loads(json.dumps(as_json(whole)))) == whole


NO_SIZE = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 0 0"/>'


@pytest.mark.parametrize("data", [b"", b"<svg", b"<html></html>", NO_SIZE])
def test_what_is_no_sheet_is_refused(data: bytes) -> None:
    with pytest.raises(Refusal):
        read_svg_page(data)


def test_two_balloons_do_not_take_the_same_room() -> None:
    # free is only what lies between the two texts
    blocked = "".join(rect(x, y, 3, 3) for x, y in ((88, 97), (126, 97), (98, 86), (117, 86), (98, 106), (117, 106)))
    page = read_svg_page(sheet(rect(5, 5, 287, 200) + blocked + text(100, 100, "24") + text(118, 100, "R6")))
    reading = read(page)
    one, other = (s["at"] for s in kept(page, reading)["sizes"])
    assert math.dist((one[0] * 297, one[1] * 210), (other[0] * 297, other[1] * 210)) > 8
