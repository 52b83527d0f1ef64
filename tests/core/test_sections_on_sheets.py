"""Sections on sheets, held against the part as it is cut there. The sheets are drawn by hand from the part's sizes."""

from __future__ import annotations

import itertools
import math
from functools import cache

import pytest
from demo.drawing import Sheet

from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.inspect.sheet_lines import SheetLines, compare_lines
from sulvak_core.sheet.page import Lettering, Page, Stroke
from sulvak_core.sheet.section_marks import titled, titles, traces
from sulvak_core.solid.shapes import Shape

from .parts import disc, plate

MM = 25.4 / 72
W, H, T = 60.0, 40.0, 12.0


@cache
def shapes(floor: float = 4.0, across: float = 14.0) -> tuple[Shape, ...]:
    """A plate with a blind hole ⌀12 at (16, across) down to ``floor`` and a hole ⌀8 through at (42, across)."""
    made = plate(W, H, str(T))
    made.sketch("s3", made.face("s2/end"), disc((16, across), 6))
    made.extrude("s4", "s3", str(T - floor), "cut")
    made.sketch("s5", made.face("s2/end"), disc((42, across), 4))
    made.extrude("s6", "s5", None, "cut")
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    removed = math.pi * (36 * (T - floor) + 16 * T)
    assert built.state.volume() == pytest.approx(W * H * T - removed, rel=1e-9)
    return tuple(b.shape for b in built.state.bodies)


def blank() -> Sheet:
    return Sheet("Test plate", "T 1", "6061", "1:1", [])


def hatched(sheet: Sheet, x: float, y: float, w: float, h: float, gap: float = 2.5) -> None:
    """Section lining at 45° in a rectangle; ``y`` its upper edge."""
    c = x - h + gap - (x + y) % gap  # lines of one section run on from field to field
    while c < x + w:
        a, b = max(c, x), min(c + h, x + w)
        if b - a > 0.3:
            sheet.line((a, y + h - (a - c)), (b, y + h - (b - c)), "thin")
        c += gap


def top_view(sheet: Sheet, x: float, y: float, letter: str = "A", across: float = 14.0) -> None:
    """``x``, ``y``: of the part's origin on the page."""
    sheet.rect(x, y - H, W, H)
    sheet.circle((x + 16, y - across), 6)
    sheet.circle((x + 42, y - across), 4)
    if letter:
        sheet.line((x - 8, y - across), (x + W + 8, y - across), "centre")
        for end in (x - 8, x + W + 8):
            sheet.text((end, y - across - 2), letter, 5)


def cut_view(sheet: Sheet, x: float, y: float, k: float = 1.0, floor: float = 4.0, lined: bool = True) -> None:
    """The section along the holes, drawn ``k`` times as large; ``x``, ``y``: of its lower left corner."""
    sheet.rect(x, y - k * T, k * W, k * T)
    for at in (10, 22):
        sheet.line((x + k * at, y - k * T), (x + k * at, y - k * floor))
    sheet.line((x + k * 10, y - k * floor), (x + k * 22, y - k * floor))
    for at in (38, 46):
        sheet.line((x + k * at, y - k * T), (x + k * at, y))
    if lined:
        for a, b, top in ((0, 10, T), (10, 22, floor), (22, 38, T), (46, W, T)):
            hatched(sheet, x + k * a, y - k * top, k * (b - a), k * top)


def page(sheet: Sheet) -> Page:
    return read_svg_page(sheet.svg().encode())


def held(sheet: Sheet, part: tuple[Shape, ...] | None = None) -> SheetLines:
    return compare_lines(page(sheet), list(part or shapes()), MM)


@pytest.mark.parametrize("lined", [True, False])
@pytest.mark.parametrize("where", [(30.0, 40.0), (150.0, 60.0)])
def test_a_section_is_explained_by_the_part_cut_at_its_letters(where: tuple[float, float], lined: bool) -> None:
    sheet = blank()
    top_view(sheet, 30, 130)
    cut_view(sheet, *where, lined=lined)
    sheet.text((where[0] + W / 2, where[1] + 8), "A - A")
    found = held(sheet)
    section = next(v for v in found.views if v.name)
    assert (section.name, section.side, section.turn) == ("A–A", "front", 0)
    assert section.cut == pytest.approx(14, abs=1e-3)
    assert not section.partly
    assert found.share > 0.999, [v.unexplained[:3] for v in found.views]
    assert not section.missing


def stepped_plate() -> tuple[Shape, ...]:
    """The plate with its holes at different heights: ⌀12 blind at (16, 12), ⌀8 through at (42, 28)."""
    made = plate(W, H, str(T))
    made.sketch("s3", made.face("s2/end"), disc((16, 12), 6))
    made.extrude("s4", "s3", "8", "cut")
    made.sketch("s5", made.face("s2/end"), disc((42, 28), 4))
    made.extrude("s6", "s5", None, "cut")
    return tuple(b.shape for b in made.build().state.bodies)


def in_steps(sheet: Sheet, corners: list[tuple[float, float]], turned: bool) -> None:
    """A view of that plate from above at (30, 130), or turned by 90°, with a cutting line through ``corners`` (mm of
    the part), letters at its ends."""

    def at(p: tuple[float, float]) -> tuple[float, float]:
        return (30 + p[1], 90 + p[0]) if turned else (30 + p[0], 130 - p[1])

    outline = [(0.0, 0.0), (W, 0.0), (W, H), (0.0, H)]
    for a, b in zip(outline, [*outline[1:], outline[0]], strict=True):
        sheet.line(at(a), at(b))
    sheet.circle(at((16, 12)), 6)
    sheet.circle(at((42, 28)), 4)
    for a, b in itertools.pairwise(corners):
        sheet.line(at(a), at(b), "centre")
    for corner in corners[:1] + corners[-1:]:
        x, y = at(corner)
        sheet.text((x, y + 2), "B", 5)


STEPPED = [
    [(-8.0, 12.0), (29.0, 12.0), (29.0, 28.0), (W + 8, 28.0)],
    [(W + 8, 28.0), (35.0, 28.0), (35.0, 34.0), (30.0, 34.0), (30.0, 12.0), (-8.0, 12.0)],  # two steps, from the right
]


@pytest.mark.parametrize("corners", STEPPED)
@pytest.mark.parametrize("turned", [False, True])
def test_a_section_along_planes_in_steps(corners: list[tuple[float, float]], turned: bool) -> None:
    """Where one plane goes over into the next no line is drawn, and none is missed."""
    sheet = blank()
    in_steps(sheet, corners, turned)
    cut_view(sheet, 150, 60)
    sheet.text((180, 68), "B-B")
    found = held(sheet, stepped_plate())
    section = next(v for v in found.views if v.name)
    assert (section.name, section.side) == ("B–B", "front")
    levels = sorted({y for _, y in corners})
    assert sorted(section.cuts) == pytest.approx(levels, abs=1e-3)
    assert found.share > 0.999, [v.unexplained[:3] for v in found.views]
    assert not section.missing
    # neither plane alone explains it
    straight = blank()
    in_steps(straight, [(-8.0, 12.0), (W + 8, 12.0)], turned)
    cut_view(straight, 150, 60)
    straight.text((180, 68), "B-B")
    section = next(v for v in held(straight, stepped_plate()).views if v.name)
    assert sum(p.length for p in section.unexplained) > 2 * T - 1


INCLINED = math.atan2(16, 26)  # of the line through both holes of that plate


def cut_along_both(sheet: Sheet, at: tuple[float, float], turn: float, behind: bool) -> None:
    """That plate cut through both of its holes by an inclined plane, seen from the lower right; drawn about ``at`` and
    turned anticlockwise; what lies behind the plane too where ``behind``."""
    along = (math.cos(INCLINED), math.sin(INCLINED))

    def reach(x: float, y: float) -> float:
        return x * along[0] + y * along[1]

    def on(p: tuple[float, float]) -> tuple[float, float]:
        u, v = p[0] - 34, p[1] - T / 2
        return (
            at[0] + u * math.cos(turn) - v * math.sin(turn),
            at[1] - u * math.sin(turn) - v * math.cos(turn),
        )

    def lines(*places: tuple[float, float]) -> None:
        for a, b in itertools.pairwise(places):
            sheet.line(on(a), on(b))

    middle, other = reach(16, 12), reach(42, 28)
    rise = math.tan(INCLINED)
    begin, end = reach(0, 12 - 16 * rise), reach(W, 12 + (W - 16) * rise)
    lines((begin, 0), (end, 0), (end, T), (begin, T), (begin, 0))
    if behind:  # of the plate's corners one is seen beside what is cut
        lines((end, 0), (reach(W, H), 0), (reach(W, H), T), (end, T))
    lines((middle - 6, T), (middle - 6, 4), (middle + 6, 4), (middle + 6, T))
    for side in (-4, 4):
        lines((other + side, T), (other + side, 0))


@pytest.mark.parametrize("behind", [False, True])
@pytest.mark.parametrize(("turn", "whole_line"), [(0.0, True), (INCLINED, True), (INCLINED, False)])
def test_a_section_along_an_inclined_plane(turn: float, whole_line: bool, behind: bool) -> None:
    """Turned level or as it stands to its line; with what lies behind it or without."""
    sheet = blank()
    in_steps(sheet, [], False)
    ends = [(16 + d * math.cos(INCLINED), 12 + d * math.sin(INCLINED)) for d in (-30.0, -24.0, 60.0, 66.0)]
    page_ends = [(30 + x, 130 - y) for x, y in ends]
    for a, b in [(0, 3)] if whole_line else [(0, 1), (2, 3)]:
        sheet.line(page_ends[a], page_ends[b], "centre" if whole_line else "visible")
    for x, y in (page_ends[0], page_ends[3]):
        sheet.text((x - 3, y - 3), "C", 5)
    cut_along_both(sheet, (190, 75), turn, behind)
    sheet.text((190, 100), "C-C")
    found = held(sheet, stepped_plate())
    section = next(v for v in found.views if v.name)
    assert (section.name, section.side) == ("C–C", None)
    assert section.inclined == pytest.approx(math.degrees(INCLINED), abs=0.01)
    assert found.share > 0.999, [(v.name, v.unexplained[:3]) for v in found.views]


def test_an_inclined_section_with_a_hole_too_deep_is_told() -> None:
    sheet = blank()
    in_steps(sheet, [], False)
    ends = [(16 + d * math.cos(INCLINED), 12 + d * math.sin(INCLINED)) for d in (-26.0, 58.0)]
    sheet.line((30 + ends[0][0], 130 - ends[0][1]), (30 + ends[1][0], 130 - ends[1][1]), "centre")
    for x, y in ends:
        sheet.text((27 + x, 127 - y), "C", 5)
    cut_along_both(sheet, (190, 75), 0.0, False)
    sheet.text((190, 100), "C-C")
    made = plate(W, H, str(T))
    made.sketch("s3", made.face("s2/end"), disc((16, 12), 6))
    made.extrude("s4", "s3", "9", "cut")
    made.sketch("s5", made.face("s2/end"), disc((42, 28), 4))
    made.extrude("s6", "s5", None, "cut")
    other = tuple(b.shape for b in made.build().state.bodies)
    section = next(v for v in held(sheet, other).views if v.name)
    assert [p.length for p in section.unexplained] == [pytest.approx(12.0, abs=0.5)]  # the floor, a millimetre too high


def test_a_table_beside_the_letters_costs_nothing() -> None:
    """From every corner of a table lines go on both ways: that each path is tried would take for ever."""
    lines = [Stroke("line", ((x, y), (x + 20.0, y))) for x in range(0, 400, 20) for y in range(0, 420, 20)]
    lines += [Stroke("line", ((x, y), (x, y + 20.0))) for x in range(0, 420, 20) for y in range(0, 400, 20)]
    letters = [Lettering("A", at, 0.0, 8.0, 6.0) for at in ((0.0, 2.0), (500.0, 500.0))]
    drawn = Page((600.0, 600.0), lines, letters)
    assert not [t for t in traces(drawn, "A", (0.0, 0.0, 400.0, 400.0)) if t.steps]


def test_a_section_of_its_own_scale() -> None:
    sheet = blank()
    top_view(sheet, 30, 130)
    cut_view(sheet, 130, 60, 2)
    sheet.text((190, 70), "SECTION A-A (2:1)")
    section = next(v for v in held(sheet).views if v.name)
    assert section.cut == pytest.approx(14, abs=1e-3)
    assert section.mm == pytest.approx(MM / 2)
    assert sum(section.explained.values()) > 0.999 * sum(section.drawn.values())
    assert sum(section.drawn.values()) == pytest.approx(2 * (W + T) + 2 * 8 + 12 + 2 * T, rel=1e-3)


def test_what_a_section_shows_otherwise_is_told() -> None:
    """The blind hole is 1 mm less deep than drawn: its floor and the ends of its walls are told, nothing else."""
    sheet = blank()
    top_view(sheet, 30, 130)
    cut_view(sheet, 30, 40)
    sheet.text((60, 48), "A-A")
    section = next(v for v in held(sheet, shapes(5.0)).views if v.name)
    assert sorted(round(p.length, 1) for p in section.unexplained) == pytest.approx([1.0, 1.0, 12.0], abs=0.25)
    assert [round(p.length, 1) for p in section.missing] == pytest.approx([12.0], abs=0.5)


def test_without_a_cutting_line_the_plane_is_found_by_the_axes_it_runs_through() -> None:
    sheet = blank()
    top_view(sheet, 30, 130, letter="")
    cut_view(sheet, 30, 60)
    found = held(sheet)
    section = next(v for v in found.views if v.cut is not None)
    assert (section.side, section.cut, section.partly) == ("front", pytest.approx(14), False)
    assert found.share > 0.999


def test_a_broken_out_view_is_cut_only_where_it_is_lined() -> None:
    """The front view from outside, the blind hole broken out: its walls and floor are explained by the section."""
    sheet = blank()
    top_view(sheet, 30, 130, letter="")
    x, y = 30.0, 60.0
    sheet.rect(x, y - T, W, T)
    for at in (10, 22):
        sheet.line((x + at, y - T), (x + at, y - 4))
    sheet.line((x + 10, y - 4), (x + 22, y - 4))
    for a, b, top in ((3.0, 10.0, T), (10.0, 22.0, 4.0), (22.0, 28.0, T)):
        hatched(sheet, x + a, y - top, b - a, top, 1.6)
    found = held(sheet)
    broken = next(v for v in found.views if v.cut is not None)
    assert (broken.side, broken.cut, broken.partly) == ("front", pytest.approx(14), True)
    assert found.share > 0.999, broken.unexplained


def test_lines_of_a_section_do_not_explain_what_lies_outside_it() -> None:
    """The same, but a line is drawn where the other hole is, outside what is broken out."""
    sheet = blank()
    top_view(sheet, 30, 130, letter="")
    x, y = 30.0, 60.0
    sheet.rect(x, y - T, W, T)
    for at in (10, 22):
        sheet.line((x + at, y - T), (x + at, y - 4))
    sheet.line((x + 10, y - 4), (x + 22, y - 4))
    sheet.line((x + 46, y - T), (x + 46, y))
    for a, b, top in ((3.0, 10.0, T), (10.0, 22.0, 4.0), (22.0, 28.0, T)):
        hatched(sheet, x + a, y - top, b - a, top, 1.6)
    broken = next(v for v in held(sheet).views if v.side == "front")
    assert [round(p.length) for p in broken.unexplained] == [12]


def test_a_view_that_is_not_cut_stays_whole() -> None:
    sheet = blank()
    top_view(sheet, 30, 130, letter="")
    sheet.rect(30, 48, W, T)
    assert [v.cut for v in held(sheet).views] == [None, None]


@pytest.mark.parametrize(
    ("text", "name", "ratio"),
    [
        ("A-A", "A–A", None),
        ("A – A", "A–A", None),
        ("SECTION B-B", "B–B", None),
        ("Section C–C (2:1)", "C–C", 2.0),
        ("D-D (1:2,5)", "D–D", 0.4),
        ("E-E SCALE 5:1", "E–E", 5.0),
        ("A-B", None, None),
        ("M5-M5", None, None),
        ("A", None, None),
        ("A-A is cut", None, None),
    ],
)
def test_titles_of_sections(text: str, name: str | None, ratio: float | None) -> None:
    found = titles(Page((800, 600), letterings=[Lettering(text, (100, 100), 10, wide=60)]))
    assert [(t.name, t.ratio) for t in found] == ([(name, ratio)] if name else [])


def test_a_scale_may_stand_under_its_title_and_a_title_names_the_nearest_view() -> None:
    letterings = [
        Lettering("A-A", (100, 100), 10, wide=30),
        Lettering("(2:1)", (100, 115), 10, wide=30),
        Lettering("B-B", (400, 100), 10, wide=30),
    ]
    found = titles(Page((800, 600), letterings=letterings))
    assert [t.ratio for t in found] == [2.0, None]
    boxes = [(50.0, 120.0, 150.0, 200.0), (350.0, 20.0, 450.0, 90.0)]
    assert {i: t.letter for i, t in titled(boxes, found).items()} == {0: "A", 1: "B"}
