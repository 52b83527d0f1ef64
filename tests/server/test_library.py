"""The library: cards by pages over all parts of a workspace, searched in any script."""

import time

from tests.conftest import Client, Service

WORKS = (
    "from django.contrib.auth.models import User; from workspaces.models import *;"
    "u = User.objects.get(username='wren'); w = Workspace.objects.create(name='Yard');"
    "Membership.objects.create(workspace=w, user=u, role='editor')"
)


def test_parts_come_by_pages_and_are_all_searched(service: Service, wren: Client) -> None:
    service.shell(WORKS)
    (yard,) = [w["id"] for w in wren.get("/api/me")[1]["workspaces"] if (w["name"], w["role"]) == ("Yard", "editor")]
    for k in range(5):
        assert wren.post("/api/parts", {"workspace": yard, "name": f"Träger {k}", "number": f"FK-{k}0"})[0] == 200
    path = f"/api/workspaces/{yard}/parts"

    def page(asked: str) -> tuple[list[str], int]:
        status, found = wren.get(f"{path}?{asked}")
        assert status == 200
        return [c["name"] for c in found["parts"]], found["total"]

    assert page("size=2") == (["Träger 4", "Träger 3"], 5)
    assert page("size=2&page=3") == (["Träger 0"], 5)
    assert page("size=2&page=4") == ([], 5)
    assert page("size=0&page=-7") == (["Träger 4"], 5)
    # words of name and number, in any case; nothing of them stands for something else
    assert page("search=TR%C3%84GER+fk-3&size=1") == (["Träger 3"], 1)
    assert page("search=%25")[1] == page("search=_")[1] == 0
    # an archived part is in the other half
    ident = wren.get(f"{path}?search=fk-20")[1]["parts"][0]["id"]
    wren.post(f"/api/parts/{ident}/archive", {"archived": True})
    assert page("")[1] == 4
    assert page("archived=true") == (["Träger 2"], 1)
    service.shell("from workspaces.models import *; Workspace.objects.get(name='Yard').delete()")
    assert wren.get(path)[0] == 404


def test_a_card_tells_the_part_as_it_is_now(wren: Client) -> None:
    part = wren.new_part("Card of before")

    def card() -> dict[str, object]:
        (found,) = wren.get(f"/api/workspaces/{wren.workspace()}/parts?search=card+of")[1]["parts"]
        return dict(found)

    assert (card()["steps"], card()["freedom"], card()["picture"]) == (0, None, None)
    part.block()
    part.do(do="set_part", changes={"name": "Card of now"})
    assert (card()["name"], card()["steps"]) == ("Card of now", 2)
    freedom = part.now["sketches"]["s1"]["freedom"]
    assert card()["freedom"] == freedom
    part.built()
    until = time.monotonic() + 30
    while card()["building"] and time.monotonic() < until:
        time.sleep(0.1)
    assert not card()["building"]
    assert card()["picture"] == part.now["version"]


def test_a_part_that_has_no_solid_is_not_said_to_be_built(wren: Client) -> None:
    """What has nothing to show for ever would be asked about for ever."""
    part = wren.new_part("Only a sketch")
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    until = time.monotonic() + 60
    while time.monotonic() < until:
        (card,) = wren.get(f"/api/workspaces/{wren.workspace()}/parts?search=only+a+sketch")[1]["parts"]
        if not card["building"]:
            break
        time.sleep(0.1)
    assert (card["building"], card["picture"]) == (False, None)
