"""Every line of a sheet held against the part: the demo's sheets, and mistakes put into parts on purpose."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.exchange.sheet_dxf import read_dxf_page
from sulvak_core.exchange.sheet_pdf import read_pdf_page
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.inspect.model_lines import SIDES
from sulvak_core.inspect.prove import prove
from sulvak_core.inspect.sheet_lines import SheetLines, compare_lines
from sulvak_core.rebuild.engine import Build, build
from sulvak_core.rebuild.state import Cache
from sulvak_core.sheet.page import Page, Stroke
from sulvak_core.sheet.views import views
from sulvak_core.sketch.model import Line, Sketch
from sulvak_core.solid import outline
from sulvak_core.steps.registry import Document, load
from tests.examples import in_turn
from tests.sheets import as_dxf, as_pdf

from .parts import Made, plate

DEMO = Path(__file__).resolve().parents[2] / "demo"
MM = 25.4 / 72
_cache = Cache()


def sheet(name: str) -> Page:
    return read_svg_page((DEMO / f"{name}.svg").read_bytes())


def whole(name: str) -> Document:
    finished = DEMO / "finished" / f"{name}.json"
    return part_file.read((finished if finished.exists() else DEMO / f"{name}.json").read_text())


def made(document: Document) -> Build:
    built = build(document, _cache)
    assert not built.failed, [r.said for r in built.failed]
    return built


def held(name: str, document: Document, page: Page | None = None, mm: float | None = MM) -> SheetLines:
    shapes = [b.shape for b in made(document).state.bodies]
    return compare_lines(page or sheet(name), shapes, mm, third_angle=document.projection == "third")


VIEWS = {
    "ballast-bar": ["top", "front", "right"],
    "boom-clamp": ["front", "top"],
    "camera-cradle": ["front", "top", "left"],
    "cross-plate": ["top", "right"],
    "electronics-pod": ["under", "front"],
    "line-cleat": ["front", "right"],
    "pan-hub": ["top", "front"],
    "pod-lid": ["under", "front"],
    "tilt-arm": ["top", "front"],
}


@pytest.mark.parametrize("name", sorted(VIEWS))
def test_the_demo_sheets_are_explained_by_their_parts(name: str) -> None:
    found = held(name, whole(name))
    assert [v.side for v in found.views] == VIEWS[name]
    assert all(v.mm == pytest.approx(MM) and v.projected for v in found.views)
    assert found.share == 1, [(v.side, v.unexplained[:3]) for v in found.views]
    for v in found.views:
        # a view is not asked to show what is engraved, or all that lies behind
        assert v.shown > 0.4 * v.edges


def test_the_scale_is_found_where_it_is_not_known() -> None:
    found = held("tilt-arm", whole("tilt-arm"), mm=None)
    assert [v.side for v in found.views] == VIEWS["tilt-arm"]
    assert found.views[0].mm == pytest.approx(MM, rel=1e-3)


@pytest.mark.parametrize(("name", "kind"), in_turn(sorted(VIEWS), ["pdf", "dxf"]))
def test_out_of_other_files_too(name: str, kind: str) -> None:
    drawn = sheet(name)
    page = read_pdf_page(as_pdf(drawn), 0) if kind == "pdf" else read_dxf_page(as_dxf(drawn))[0]
    found = held(name, whole(name), page)
    assert [v.side for v in found.views] == VIEWS[name]
    assert found.share == 1, [(v.side, v.unexplained[:3]) for v in found.views]


def test_without_a_part_nothing_is_explained_and_all_is_told() -> None:
    found = compare_lines(sheet("cross-plate"), [], MM)
    assert found.share == 0
    assert [v.side for v in found.views] == [None, None]
    drawn = sum(sum(v.drawn.values()) for v in found.views)
    assert sum(p.length for v in found.views for p in v.unexplained) == pytest.approx(drawn)


def test_views_are_what_hangs_together_and_stands_inside() -> None:
    boxes = [v.box for v in views(sheet("camera-cradle"))]
    assert len(boxes) == 3
    for i, a in enumerate(boxes):
        for b in boxes[i + 1 :]:
            assert a[2] < b[0] or b[2] < a[0] or a[3] < b[1] or b[3] < a[1]


# -- mistakes ----------------------------------------------------------------------------------------------


def changed(name: str, change: Callable[[dict[str, Any]], None]) -> Document:
    data = json.loads(part_file.write(whole(name)))
    change(data)
    return load(data)


def step(data: dict[str, Any], kind: str, nth: int = 0) -> dict[str, Any]:
    found: dict[str, Any] = [s for s in data["steps"] if s["kind"] == kind][nth]
    return found


def drop(data: dict[str, Any], kind: str, nth: int = 0) -> None:
    data["steps"].remove(step(data, kind, nth))


def moved(data: dict[str, Any], sketch: int, entity: str, by: tuple[float, float]) -> None:
    """A circle of a sketch put elsewhere, with nothing left that would draw it back."""
    drawn = step(data, "sketch", sketch)["sketch"]
    circle = next(e for e in drawn["entities"] if e["id"] == entity)
    circle["c"] = [circle["c"][0] + by[0], circle["c"][1] + by[1]]
    drawn["constraints"] = []
    drawn["dimensions"] = []


def circles(data: dict[str, Any], sketch: int) -> list[str]:
    return [e["id"] for e in step(data, "sketch", sketch)["sketch"]["entities"] if e["kind"] == "circle"]


def wider(data: dict[str, Any], sketch: int, entity: str, by: float) -> None:
    drawn = step(data, "sketch", sketch)["sketch"]
    circle = next(e for e in drawn["entities"] if e["id"] == entity)
    circle["r"] += by
    drawn["constraints"] = []
    drawn["dimensions"] = []


def deeper(data: dict[str, Any], nth: int, by: float) -> None:
    extent = step(data, "extrude", nth)["extent"]
    extent["depth"] = f"{float(extent['depth'].split()[0]) + by:g}"


def found_out(name: str, document: Document) -> tuple[bool, bool]:
    """Whether sizes that are out, and whether lines, tell that a part is not what the sheet says."""
    built = made(document)
    verdicts = prove(document, built)
    lines = held(name, document)
    sizes_tell = any(v["state"] not in ("proven", "reference", "note") for v in verdicts)
    right = held(name, whole(name))
    lines_tell = lines.share < right.share - 1e-3 or any(
        v.edges - v.shown > w.edges - w.shown + 0.5 for v, w in zip(lines.views, right.views, strict=True)
    )
    return sizes_tell, lines_tell


def sized(data: dict[str, Any], nth: int, field: str, value: str) -> None:
    step(data, "hole", nth)[field] = value


def first_circle(sketch: int, do: Callable[..., None], *how: Any) -> Callable[[dict[str, Any]], None]:
    return lambda d: do(d, sketch, circles(d, sketch)[0], *how)


MISTAKES: list[tuple[str, str, Callable[[dict[str, Any]], None]]] = [
    ("a hole 0.3 off", "cross-plate", first_circle(0, moved, (0.3, 0.0))),
    ("a hole 0.3 too wide", "cross-plate", first_circle(0, wider, 0.15)),
    ("a plate too thick", "cross-plate", lambda d: deeper(d, 0, 0.25)),
    ("inner rounds missing", "camera-cradle", lambda d: drop(d, "fillet", 0)),
    ("outer rounds missing", "camera-cradle", lambda d: drop(d, "fillet", 1)),
    ("holes not repeated", "camera-cradle", lambda d: drop(d, "pattern")),
    ("a slot missing", "camera-cradle", lambda d: drop(d, "extrude", 3)),
    ("a bracket too wide", "camera-cradle", lambda d: deeper(d, 0, 0.5)),
    ("rounds missing", "line-cleat", lambda d: drop(d, "fillet")),
    ("holes missing", "line-cleat", lambda d: drop(d, "hole")),
    ("a cleat too thick", "line-cleat", lambda d: deeper(d, 0, 0.3)),
    ("a boss too low", "tilt-arm", lambda d: deeper(d, 1, -0.3)),
    ("a pocket too shallow", "tilt-arm", lambda d: deeper(d, 2, -0.3)),
    ("a chamfer missing", "tilt-arm", lambda d: drop(d, "chamfer")),
    ("corners left sharp", "tilt-arm", lambda d: drop(d, "fillet")),
    ("a hub too short", "pan-hub", lambda d: deeper(d, 1, -0.4)),
    ("a bore missing", "pan-hub", lambda d: drop(d, "extrude", 2)),
    ("screw holes missing", "pod-lid", lambda d: drop(d, "hole")),
    ("a flange too thick", "pod-lid", lambda d: deeper(d, 0, 0.5)),
    ("rounds missing on a clamp", "boom-clamp", lambda d: drop(d, "fillet")),
    ("a counterbore missing", "boom-clamp", lambda d: drop(d, "hole", 0)),
    ("a pocket of the bar too shallow", "ballast-bar", lambda d: deeper(d, 1, -0.5)),
    ("walls without draft", "electronics-pod", lambda d: drop(d, "draft")),
]


@pytest.mark.parametrize(("what", "name", "change"), MISTAKES, ids=[m[0] for m in MISTAKES])
def test_what_differs_is_found_by_sizes_or_by_lines(
    what: str, name: str, change: Callable[[dict[str, Any]], None]
) -> None:
    assert any(found_out(name, changed(name, change))), what


def test_what_is_right_is_not_found_out() -> None:
    for name in ("tilt-arm", "camera-cradle"):
        assert found_out(name, whole(name)) == (False, False)


def stepped(mirror: bool) -> Made:
    """A plate with a block on one corner: mirrored, it is another part."""
    made = plate(60, 40, "8")
    at = [(0.0, 0.0), (25.0, 0.0), (25.0, 15.0), (0.0, 15.0)]
    if mirror:
        at = [(60.0 - x, y) for x, y in at]
    lines = [Line(id=f"l{i + 1}", p=at[i], q=at[(i + 1) % 4]) for i in range(4)]
    made.sketch("s3", "top", Sketch(entities=lines))
    made.extrude("s4", "s3", "14")
    return made


def drawing_of(made: Made, third_angle: bool = True) -> Page:
    """Three views of a part in projection, one to one, outlines alone."""
    shapes = [b.shape for b in made.build().state.bodies]
    strokes = []
    beside = ("right", (300.0, 300.0)) if third_angle else ("left", (500.0, 300.0))
    for side, (x, y) in (("front", (50.0, 300.0)), ("top", (50.0, 250.0 if third_angle else 450.0)), beside):
        drawn = outline.lines(shapes, *SIDES[side])  # type: ignore[index]
        for run in drawn.seen:
            points = tuple((x + u / MM, y - v / MM) for u, v in run)
            strokes += [Stroke("line", pair, width=1.4) for pair in itertools.pairwise(points)]
    return Page((800, 600), strokes)


@pytest.mark.parametrize("third_angle", [True, False])
def test_a_mirrored_part_is_another_part(third_angle: bool) -> None:
    right, wrong = stepped(False), stepped(True)
    page = drawing_of(right, third_angle)

    def share(made: Made) -> SheetLines:
        shapes = [b.shape for b in made.build().state.bodies]
        return compare_lines(page, shapes, MM, third_angle=third_angle)

    found = share(right)
    assert found.share == pytest.approx(1)
    assert {v.side for v in found.views} == {"front", "top", "right" if third_angle else "left"}
    assert all(v.shown == pytest.approx(v.edges) and v.turn == 0 and v.projected for v in found.views)
    # each of the mirrored part's views can be had from one side or another, but not all of one part
    other = share(wrong)
    assert other.share < 0.97 or not all(v.projected for v in other.views)
    # and what is drawn in one angle of projection is no part in the other
    shapes = [b.shape for b in right.build().state.bodies]
    turned = compare_lines(page, shapes, MM, third_angle=not third_angle)
    assert turned.share < 0.97 or not all(v.projected for v in turned.views)


def test_a_page_of_one_line_is_a_view_that_no_part_has() -> None:
    line = Page((800, 600), [Stroke("line", ((100.0, 100.0), (100.0, 300.0)), width=1.4)])
    shapes = [b.shape for b in plate().build().state.bodies]
    found = compare_lines(line, shapes, None)
    assert [v.side for v in found.views] == [None]
    assert compare_lines(Page((800, 600)), shapes, None).views == []
