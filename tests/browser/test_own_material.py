"""A density of its own, typed where a material is chosen; and a material for a body found from the search."""

from playwright.sync_api import expect

from .conftest import Desk
from .test_solids import plate


def test_a_typed_density_weighs_the_part_and_is_offered_again(desk: Desk) -> None:
    page = desk.page
    plate(desk, "Weighed by hand")  # 12 cm³
    desk.keys("/")
    page.get_by_label("Search actions").fill("material")
    desk.keys("Enter")
    page.get_by_role("combobox", name="Material").select_option("a density of its own …")
    page.get_by_label("Density", exact=True).fill("7,3")
    page.get_by_role("button", name="Take it").click()
    page.get_by_role("button", name="Keep").click()
    expect(desk.gauge("Mass")).to_contain_text("87.60 g")
    # a body of another: found by the search, the name given and taken in one change
    desk.keys("/")
    page.get_by_label("Search actions").fill("body of step")
    desk.keys("Enter")
    page.get_by_label("Material of the body").select_option("a density of its own …")
    page.get_by_label("Density", exact=True).fill("8600")
    page.get_by_label("Unit of the density").select_option("kg/m³")
    page.get_by_label("Name of the material").fill("Bearing metal")
    page.keyboard.press("Enter")
    expect(desk.gauge("Mass")).to_contain_text("103.20 g")
    assert [m["name"] for m in desk.document()["materials"]] == ["7.3 g/cm³", "Bearing metal"]
    # kept for the next part
    page.goto("/")
    page.get_by_role("button", name="New part").click()
    page.get_by_label("Name", exact=True).fill("Weighed again")
    page.get_by_role("combobox", name="Material").select_option("Bearing metal")
    page.get_by_role("button", name="Make the part").click()
    expect(desk.route).to_be_visible()
    assert desk.document()["materials"][0]["value"] == 8600
