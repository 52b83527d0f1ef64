"""The cross plate modelled from its sheet on the screen: drawn roughly, made symmetric, dimensioned, patterned."""

import math

import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_free_curves import look

CORNERS = [
    (-16, -44), (14, -44), (14, -17), (44, -17), (44, 13), (14, 13),
    (14, 42), (-16, 42), (-16, 13), (-43, 13), (-43, -17), (-16, -17),
]  # fmt: skip
AREA = 2 * 90 * 30 - 30 * 30 - 64 * math.pi - 4 * math.pi * 2.25**2


def middle(desk: Desk, ident: str) -> tuple[float, float]:
    """A place on a line, off its middle so that nothing else is caught there."""
    e = desk.entities()[ident]
    return 0.35 * e["p"][0] + 0.65 * e["q"][0], 0.35 * e["p"][1] + 0.65 * e["q"][1]


def test_the_cross_plate_from_nothing(desk: Desk) -> None:
    page = desk.page
    desk.new_part("Plate of the test")
    desk.sketch_on("Top")
    desk.keys("d", "l")
    for at in [*CORNERS, CORNERS[0]]:
        desk.press(*at)
        desk.saved()
    desk.keys("Escape")
    lines = desk.entities()
    assert len(lines) == 12
    kinds = [k["kind"] for k in desk.document()["steps"][0]["sketch"]["constraints"]]
    assert kinds.count("horizontal") == kinds.count("vertical") == 6

    # each end of the cross about the axis it lies across, and opposite ends about the other
    ends = {k: desk.entities()[k] for k in ("l1", "l4")}
    for ident, axis in (("l1", (0, 25)), ("l4", (25, 0))):
        desk.press(*ends[ident]["p"])
        desk.press(*ends[ident]["q"], more=True)
        desk.press(*axis, more=True)
        desk.keys("c", "y")
        desk.saved()
        ends = {k: desk.entities()[k] for k in ("l1", "l4")}
    for one, two, axis in (("l4", "l10", (0, 28)), ("l1", "l7", (28, 0))):
        desk.press(*middle(desk, one))
        desk.press(*middle(desk, two), more=True)
        desk.press(*axis, more=True)
        desk.keys("c", "y")
        desk.saved()
    look(desk, "cross-symmetric")
    expect(desk.gauge("Freedom")).to_contain_text("4")

    # overall sizes and the widths of the arms
    desk.dimension(middle(desk, "l4"), middle(desk, "l10"), at=(0, 50), value="90", more=True)
    desk.dimension(middle(desk, "l1"), middle(desk, "l7"), at=(-52, 8), value="90", more=True)
    desk.dimension(middle(desk, "l1"), at=(4, -48), value="30", more=True)
    desk.dimension(middle(desk, "l4"), at=(52, 6), value="30")
    expect(desk.gauge("Freedom")).to_contain_text("0")

    # the bore, and one hole copied round the middle
    desk.keys("d", "c")
    desk.press(0, 0)
    desk.move(6, 3)
    desk.typed("16")
    desk.press(36, 0)
    desk.move(38, 1)
    desk.typed("4.5")
    holes = {i: e for i, e in desk.entities().items() if e["kind"] == "circle"}
    hole = next(i for i, e in holes.items() if e["r"] < 3)
    desk.dimension((holes[hole]["c"][0], holes[hole]["c"][1]), (0, 0), at=(18, -7), value="36")
    x, y = desk.entities()[hole]["c"]
    desk.press(x, y + 2.25)
    desk.keys("e", "g")
    desk.press(0, 0)
    desk.keys("Tab")
    page.keyboard.type("4")
    desk.keys("Enter")
    desk.saved()
    look(desk, "cross-sketch")
    expect(desk.gauge("Freedom")).to_contain_text("0")
    ident = page.url.rsplit("/", 1)[1]
    sketch = page.request.get(f"/api/parts/{ident}").json()["sketches"]["s1"]
    assert sketch["area"] == pytest.approx(AREA, rel=1e-9)
    desk.extrude("4")
    look(desk, "cross-solid")
    assert desk.hand() <= 99  # docs/benchmarks.md
    assert desk.volume() == pytest.approx(4 * AREA, rel=1e-9)
