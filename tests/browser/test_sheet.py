"""The sheet on the screen: given room, read whole, ballooned by a press, sizes worked out, balloons moved."""

from __future__ import annotations

import csv
import math
import re
from pathlib import Path

import pypdfium2
import pytest
from playwright.sync_api import expect

from sulvak_core.exchange.sheet_svg import read_svg_page
from tests.examples import THOROUGH
from tests.service import Client, Part, Service
from tests.sheets import as_dxf, as_pdf

from .conftest import Desk

DEMO = Path(__file__).resolve().parents[2] / "demo"


def read_views(desk: Desk) -> list[list[float]]:
    """The boxes of the views that are recognised on the first page, those nearer its top left before others."""
    assert desk.client
    status, said = desk.client.get(f"/api/parts/{desk.page.url.rsplit('/', 1)[-1]}/sheet/0/lines")
    assert status == 200, said
    w, h = 842, 595
    return sorted((v["box"] for v in said["views"]), key=lambda v: v[0] * w + v[1] * h)


def beside(box: list[float], at: list[float]) -> float:
    """How far a place lies from a box, in points."""
    left, top, right, bottom = box
    return math.hypot(842 * max(left - at[0], 0, at[0] - right), 595 * max(top - at[1], 0, at[1] - bottom))


def test_a_dxf_sheet_is_read_ballooned_and_worked_with(desk: Desk) -> None:
    desk.new_part("Cradle to be read")
    page, sheet = desk.page, desk.sheet
    data = as_dxf(read_svg_page((DEMO / "camera-cradle.svg").read_bytes()))
    page.get_by_label("Drawing file").set_input_files(
        {"name": "cradle.dxf", "mimeType": "image/vnd.dxf", "buffer": data}
    )
    expect(sheet.get_by_text("cradle.dxf")).to_be_visible()
    # more room, by one key each way
    drawing = page.get_by_role("group", name="Drawing", exact=True)
    wide = (drawing.bounding_box() or {})["width"]
    page.keyboard.press("w")
    expect(page.get_by_role("button", name="less room")).to_be_visible()
    half = (drawing.bounding_box() or {})["width"]
    page.keyboard.press("w")
    expect(page.get_by_role("button", name="more room")).to_have_count(0)
    assert half > 2 * wide
    page.keyboard.press("n")
    expect(page.get_by_role("button", name="more room")).to_be_visible()

    # one size by a press on it: no typing
    page.keyboard.press("s")
    page.keyboard.press("b")
    page.get_by_role("button", name="Take R15", exact=True).click()
    expect(page.get_by_role("button", name="Balloon 1: R15")).to_be_visible()
    page.keyboard.press("Escape")

    # the rest at once
    page.keyboard.press("s")
    page.keyboard.press("r")
    read = page.get_by_role("region", name="What stands on the sheet")
    expect(read.get_by_text("13 sizes read, 1 have a balloon")).to_be_visible()
    read.get_by_role("button", name="Take all 12").click()
    callouts = page.get_by_role("list", name="Callouts").get_by_role("listitem")
    expect(callouts).to_have_count(13)
    expect(page.get_by_role("button", name=re.compile(r"^Balloon \d+: 8X Ø3.2 THRU"))).to_be_visible()
    desk.saved()

    # one worked out: 60 less two walls of 4
    numbers = {c["text"]: c["number"] for c in desk.document()["callouts"]}
    page.keyboard.press("s")
    page.keyboard.press("w")
    for text in ("60", "4", "4"):
        page.get_by_role("button", name=f"Balloon {numbers[text]}: {text}", exact=True).click()
    made = page.get_by_role("region", name="A size worked out")
    expect(made.get_by_text("60 − 4 − 4")).to_be_visible()
    page.get_by_label("Arithmetic").press("Enter")
    page.keyboard.press("Escape")
    desk.saved()
    assert [c["worked"] != "" for c in desk.document()["callouts"]] == [False] * 13 + [True]
    expect(callouts.nth(13)).to_contain_text("52 = 60 − 4 − 4")

    # a balloon is dragged elsewhere, and only that
    before = {c["id"]: c for c in desk.document()["callouts"]}
    balloon = page.get_by_role("button", name="Balloon 1: R15")
    box = balloon.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y - 20, steps=4)
    page.mouse.up()
    desk.saved()
    after = {c["id"]: c for c in desk.document()["callouts"]}
    assert [k for k in before if before[k] != after[k]] == ["b1"]
    assert after["b1"]["at"][0] > before["b1"]["at"][0]

    # numbers anew, and a filter
    page.get_by_label("Number the balloons anew").select_option("by size")
    desk.saved()
    assert desk.document()["callouts"][0]["number"] != 1
    page.get_by_label("Number the balloons anew").select_option("view by view")
    desk.saved()
    numbered = sorted((c for c in desk.document()["callouts"] if c["at"]), key=lambda c: c["number"])
    views = read_views(desk)
    near = [min(range(len(views)), key=lambda k: beside(views[k], c["at"])) for c in numbered]
    assert near == sorted(near) and len(set(near)) == 3

    # several chosen, in the order they are pressed: numbered so, and taken away at once
    rows = sheet.get_by_role("list", name="Callouts").get_by_role("button", name=re.compile(r"^\d+ "))
    last = [rows.nth(k).inner_text() for k in (11, 3)]
    rows.nth(11).click(modifiers=["Control"])
    rows.nth(3).click(modifiers=["Control"])
    chosen = sheet.get_by_role("group", name="Chosen callouts")
    expect(chosen).to_contain_text("2 chosen")
    chosen.get_by_role("button", name="number them first").click()
    expect(chosen).to_have_count(0)
    desk.saved()
    assert [re.sub(r"^\d+", "", rows.nth(k).inner_text()) for k in (0, 1)] == [re.sub(r"^\d+", "", t) for t in last]
    rows.nth(1).click(modifiers=["Control"])
    rows.nth(4).click(modifiers=["Shift"])
    expect(chosen).to_contain_text("4 chosen")
    page.keyboard.press("Escape")
    expect(chosen).to_have_count(0)
    rows.nth(7).click()
    expect(rows.nth(7)).to_have_attribute("aria-pressed", "true")
    rows.nth(9).click(modifiers=["Shift"])
    expect(chosen).to_contain_text("3 chosen")
    chosen.get_by_role("button", name="delete").click()
    expect(callouts).to_have_count(11)
    page.get_by_role("button", name="Undo").click()
    expect(callouts).to_have_count(14)
    page.get_by_label("Show callouts").select_option("proven")
    expect(page.get_by_text("None of the callouts is proven.")).to_be_visible()


@pytest.mark.parametrize("form", ["svg", "dxf", "pdf"] if THOROUGH else ["pdf"])
def test_a_plate_from_its_sheet_without_typing_a_size(desk: Desk, service: Service, form: str, tmp_path: Path) -> None:
    """Read, outlined, finished by the sheet's own sizes, extruded by one of its callouts, and proven: eleven presses,
    a letter pressed counting as one, then every line of the sheet explained."""
    desk.new_part(f"Plate from its sheet, {form}")
    page = desk.page
    sheet = tmp_path / f"cross-plate.{form}"
    svg = (DEMO / "cross-plate.svg").read_bytes()
    drawn = read_svg_page(svg)
    sheet.write_bytes({"svg": lambda _: svg, "dxf": as_dxf, "pdf": as_pdf}[form](drawn))
    page.get_by_label("Drawing file").set_input_files(sheet)
    expect(desk.sheet.get_by_text(sheet.name)).to_be_visible()
    desk.hand()
    desk.sheet.get_by_role("button", name="read", exact=True).click()
    page.get_by_role("button", name="Take all 8").click()
    page.get_by_role("toolbar", name="Deck").get_by_role("button", name="Top plane").click()
    desk.sheet.get_by_role("button", name="outline", exact=True).click()
    along = page.get_by_role("group", name="Along with the outline").get_by_role("checkbox")
    assert [along.nth(k).is_checked() for k in range(3)] == [True, False, False]
    page.get_by_role("button", name="Take the outline of this view").first.click()
    expect(page.get_by_text("17 lines, arcs and circles taken from the sheet.")).to_be_visible()
    page.get_by_role("button", name="Suggest how to finish", exact=True).click()
    page.get_by_role("button", name=re.compile("^Take all")).click(timeout=120_000)
    expect(page.get_by_text("fully constrained").first).to_be_visible(timeout=120_000)
    page.get_by_role("toolbar", name="Deck").get_by_role("button", name="Finish").click()
    page.get_by_role("button", name="Extrude", exact=False).first.click()
    page.get_by_role("button", name="Balloon 2: 4", exact=True).click()
    expect(page.get_by_label("Depth", exact=True)).to_have_value("4")
    page.keyboard.press("Enter")
    desk.saved()
    expect(desk.gauge("Proven")).to_contain_text("8 / 8", timeout=120_000)
    assert desk.hand() <= 12

    page.keyboard.press("s")
    page.keyboard.press("l")
    lines = page.get_by_role("region", name="Lines of the sheet")
    expect(lines.get_by_text("100.0 % of the sheet's lines explained")).to_be_visible(timeout=120_000)
    expect(lines.get_by_text("seen from above")).to_be_visible()

    # what is not as the sheet has it is told, and gone to
    Part(Client(service), page.url.rsplit("/", 1)[1]).do(
        do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "5"}}
    )
    first = lines.get_by_role("button", name=re.compile("no edge explains")).first
    expect(first).to_be_visible(timeout=120_000)
    expect(page.get_by_role("button", name="fit", exact=True)).to_have_count(0)
    first.click()
    expect(page.get_by_role("button", name="fit", exact=True)).to_be_visible()


def test_a_part_is_inspected_and_its_report_read_back(desk: Desk) -> None:
    desk.open("Tilt arm")
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    table = page.get_by_role("table", name="Sizes")
    expect(table.get_by_role("row")).to_have_count(17)
    row = table.get_by_role("row").nth(3)
    expect(row).to_contain_text("90")
    expect(row).to_contain_text("proven")
    expect(row).to_contain_text("between what stands on centre of arc 1 and centre of arc 2")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Report, CSV").click()
    report = list(csv.reader(taken.value.path().read_text(encoding="utf-8-sig").splitlines()))
    assert ["part", "Tilt arm"] in report
    assert sum("proven" in line for line in report) == 16
    seen = page.get_by_role("group", name="The part as measured")
    expect(seen.get_by_role("button", name=re.compile("^Callout"))).to_have_count(16)
    seen.get_by_role("button", name="Callout 3: 90, proven").click()
    expect(page.get_by_role("button", name="Show callout 3 on the part")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Keep this report").click()
    kept = page.get_by_role("list", name="Kept reports").get_by_role("listitem")
    expect(kept).to_have_count(1, timeout=120_000)
    with page.expect_download() as taken:
        kept.get_by_role("link", name=re.compile("PDF$")).click()
    assert len(pypdfium2.PdfDocument(taken.value.path())) == 3  # the table, mass and checks, the sheet
    page.get_by_role("tab", name="Lines of the sheet").click()
    expect(page.get_by_role("table", name="Views of page 1").get_by_role("row")).to_have_count(3, timeout=120_000)
    page.get_by_role("tab", name="Coverage").click()
    expect(page.get_by_text("distance of line 4 to the vertical axis in Sketch 50")).to_be_visible()
    page.get_by_role("link", name="To the board").click()
    expect(desk.gauge("Proven")).to_contain_text("16 / 16", timeout=120_000)


def test_a_rough_sketch_is_fitted_to_its_sheet(desk: Desk, service: Service) -> None:
    """A plate drawn by hand, too small and out of proportion: where everything would go is shown and told, one size is
    taken alone, the rest at once, and what the sheet does not say is said."""
    desk.new_part("Plate drawn roughly")
    page = desk.page
    page.get_by_label("Drawing file").set_input_files(DEMO / "electronics-pod.svg")
    expect(desk.sheet.get_by_text("electronics-pod.svg")).to_be_visible()
    desk.sheet.get_by_role("button", name="read", exact=True).click()
    page.get_by_role("button", name=re.compile("^Take all")).click()
    desk.saved()
    desk.sketch_on("Top")
    desk.keys("d", "r")
    desk.press(0, 0)
    desk.press(40, 30)
    desk.keys("Escape")
    desk.keys("d", "c")
    desk.press(17, 12)
    desk.press(17, 18)
    desk.keys("Escape", "Escape")
    desk.saved()
    drawn = desk.entities()

    desk.keys("k", "h")
    fit = page.get_by_role("region", name="Fit to the sheet")
    expect(fit.get_by_text("In green, where everything would be")).to_be_visible(timeout=120_000)
    expect(fit.get_by_role("button", name=re.compile(r"64 \("))).to_be_visible()
    expect(fit.get_by_text("The sheet gives no size that places circle 1 from left to right.")).to_be_visible()
    assert desk.entities() == drawn  # nothing has moved yet

    fit.get_by_role("button", name=re.compile(r"44 \(")).click()
    desk.saved()
    sizes = desk.document()["steps"][0]["sketch"]["dimensions"]
    assert [d["expr"] for d in sizes] == ["44"]
    expect(fit.get_by_role("button", name=re.compile(r"64 \("))).to_be_visible(timeout=120_000)
    fit.get_by_role("button", name=re.compile("^Move and take all")).click()
    expect(fit).to_have_count(0, timeout=120_000)
    desk.saved()
    sketch = desk.document()["steps"][0]["sketch"]
    assert {"64", "44"} <= {d["expr"] for d in sketch["dimensions"]}
    xs = [x for e in sketch["entities"] if e["kind"] == "line" for x in (e["p"][0], e["q"][0])]
    assert abs(max(xs) - min(xs) - 64) < 1e-9
    linked = [c["text"] for c in desk.document()["callouts"] if c["link"]]
    assert {"64", "44"} <= set(linked)


def test_what_nothing_uses_is_proven_by_pointing(desk: Desk, service: Service) -> None:
    """A chosen callout lights its faces and a pressed face its callouts; a callout that nothing uses is proven by the
    likeliest place, another by pressing the part."""
    desk.copy("Cross plate", "Plate pointed at")
    page = desk.page
    expect(desk.gauge("Proven")).to_contain_text("8 / 8", timeout=120_000)
    part = Part(Client(service), page.url.rsplit("/", 1)[1])
    for n, text in ((9, "90"), (10, "Ø16")):
        part.do(do="set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    expect(desk.gauge("Proven")).to_contain_text("8 / 10", timeout=120_000)
    callouts = page.get_by_role("list", name="Callouts")
    callouts.get_by_role("button", name=re.compile("^9 90")).click()
    places = page.get_by_role("region", name="Where callout 9 is measured")
    expect(places.get_by_role("button", name=re.compile("^✓")).first).to_contain_text("90 mm", timeout=120_000)
    places.get_by_role("button", name=re.compile("^✓")).first.click()
    desk.saved()
    expect(desk.gauge("Proven")).to_contain_text("9 / 10", timeout=120_000)

    callouts.get_by_role("button", name=re.compile("^10 Ø16")).click()
    page.get_by_role("button", name="Point at it").click()
    desk.keys("v", "i")  # from above no wall is to be seen
    desk.press_on("hole")
    expect(page.get_by_role("region", name="Measured").get_by_text("diameter")).to_be_visible(timeout=120_000)
    page.get_by_role("button", name="Proves callout 10 by diameter").click()
    desk.saved()
    document = desk.document()
    assert [c["gauged"]["figure"] for c in document["callouts"] if c["gauged"]][-1] == "diameter"
    expect(page.get_by_text("Measured where it was pointed at.")).to_be_visible()
    page.get_by_role("button", name="Let it go").click()
    desk.saved()
    assert sum(c["gauged"] is not None for c in desk.document()["callouts"]) == 1
    # a face that is pressed lights the callouts that speak of it
    page.keyboard.press("Escape")
    desk.press_on("end face")
    expect(
        callouts.get_by_role("listitem").filter(has_text="proven 4").and_(page.locator("[data-spoken]"))
    ).to_have_count(1)


def test_a_newer_issue_of_a_sheet_and_a_further_one(desk: Desk, service: Service) -> None:
    """The newer issue says 28 where it said 30, and no more R3: both are told, one is taken and followed. A further
    sheet comes after it, and goes again."""
    desk.copy("Tilt arm", "Arm, issue 2")
    page = desk.page
    expect(desk.gauge("Proven")).to_contain_text("16 / 16", timeout=120_000)
    drawn = (DEMO / "tilt-arm.svg").read_text()
    assert drawn.count(">30<") == drawn.count(">R3<") == 1
    newer = drawn.replace(">30<", ">28.5<").replace(">R3<", ">SEE NOTE<").encode()

    def bring(as_what: str, name: str, data: bytes) -> None:
        desk.sheet.get_by_role("button", name="other sheet").click()
        with page.expect_file_chooser() as chosen:
            page.get_by_role("menuitem", name=as_what).click()
        chosen.value.set_files({"name": name, "mimeType": "image/svg+xml", "buffer": data})

    bring("Newer issue of this sheet", "arm-2.svg", newer)
    told = "Newer issue: 14 callouts are as they were; changed: 12; no longer on the sheet: 15."
    expect(page.get_by_text(told)).to_be_visible()
    desk.saved()
    expect(desk.gauge("Proven")).to_contain_text("14 / 16", timeout=120_000)
    row = page.get_by_role("list", name="Callouts").get_by_role("listitem").filter(has_text="The newer sheet says")
    expect(row).to_contain_text("28.5")
    row.get_by_role("button", name="take it").click()
    expect(row).to_have_count(0)
    page.get_by_role("button", name="leave it").click()  # of R3
    desk.saved()
    expect(desk.gauge("Proven")).to_contain_text("16 / 16", timeout=120_000)
    sketches = [s for s in desk.document()["steps"] if s["kind"] == "sketch"]
    assert "28.5" in {d["expr"] for s in sketches for d in s["sketch"]["dimensions"]}

    bring("Further sheet", "plate.svg", (DEMO / "cross-plate.svg").read_bytes())
    pages = page.get_by_role("list", name="Pages").get_by_role("button")
    expect(pages).to_have_count(2)
    expect(page.get_by_role("button", name="Page 2")).to_have_attribute("aria-current", "true")
    expect(page.get_by_role("button", name=re.compile("^Balloon"))).to_have_count(0)
    page.get_by_role("button", name="Page 1").click()
    expect(page.get_by_role("button", name=re.compile("^Balloon"))).to_have_count(16)
    page.get_by_role("button", name="Page 2").click()
    desk.sheet.get_by_role("button", name="other sheet").click()
    page.get_by_role("menuitem", name="Take this sheet away").click()
    expect(page.get_by_role("list", name="Pages")).to_have_count(0)
    desk.saved()
    assert [len(desk.document()["further"]), sum(c["at"] is not None for c in desk.document()["callouts"])] == [0, 16]


def test_a_window_pulled_on_the_sheet_takes_what_lies_in_it(desk: Desk) -> None:
    """The right arm of the plate's view, pulled out of the middle of it: one hole and nothing that runs out."""
    desk.new_part("Arm of a plate")
    page = desk.page
    page.get_by_label("Drawing file").set_input_files(DEMO / "cross-plate.svg")
    expect(desk.sheet.get_by_text("cross-plate.svg")).to_be_visible()
    desk.sketch_on("Top")
    desk.sheet.get_by_role("button", name="outline", exact=True).click()
    view = page.get_by_role("button", name="Take the outline of this view").first
    box = view.bounding_box()
    assert box
    at = [(box["x"] + fx * box["width"], box["y"] + fy * box["height"]) for fx, fy in ((0.8, 0.4), (0.99, 0.6))]
    page.mouse.move(*at[0])
    page.mouse.down()
    page.mouse.move(*at[1], steps=5)
    page.mouse.up()
    expect(page.get_by_text(re.compile("taken from the sheet"))).to_be_visible()
    desk.saved()
    drawn = [e for e in desk.entities().values() if not e["construction"]]
    assert [(e["kind"], e["r"]) for e in drawn] == [("circle", 2.25)]
