"""Several sheets a part, and newer issues of them: which callouts stay, which say something else, which are gone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from sulvak_core.exchange.sheet_files import sheet_reading
from sulvak_core.inspect.prove import prove
from sulvak_core.part.document import GONE
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.newer import newer

from .parts import Made, plate

DEMO = Path(__file__).parents[2] / "demo"
A4 = (842.0, 595.0)


def sheet(name: str, pages: int = 1, sha: str = "a") -> dict[str, Any]:
    return {"name": name, "sha256": sha * 64, "media_type": "application/pdf", "pages": [A4] * pages}


def callout(n: int, page: int = 0, text: str = "40", at: tuple[float, float] | None = (0.5, 0.5)) -> dict[str, Any]:
    return {"id": f"b{n}", "number": n, "text": text, "page": page, "at": at}


def shown(made: Made) -> dict[str, tuple[int, bool]]:
    return {b.id: (b.page, b.at is not None) for b in made.document.callouts}


def three_sheets() -> Made:
    """Sheets of 2, 1 and 3 pages, with a callout on each page."""
    made = Made()
    made.do("set_sheet", sheet=sheet("one", 2, "a"))
    made.do("add_sheet", sheet=sheet("two", 1, "b"))
    made.do("add_sheet", sheet=sheet("three", 3, "c"))
    for n in range(6):
        made.do("set_callout", callout=callout(n + 1, n))
    return made


def test_pages_are_counted_through_all_sheets() -> None:
    made = three_sheets()
    names = [(s.name, own) for n in range(6) if (hit := made.document.page(n)) for s, own in [hit]]
    assert names == [("one", 0), ("one", 1), ("two", 0), ("three", 0), ("three", 1), ("three", 2)]
    assert made.document.page(6) is None
    assert made.document.page(-1) is None


def test_looks_belong_to_their_own_sheet() -> None:
    made = three_sheets()
    made.do("set_page", page=4, turn=90)
    made.do("set_page", page=2, known={"ends": [(0, 0), (0.5, 0)], "length": "100"})
    views = [{"side": "front", "scale": 0.3, "origin": (0.4, 0.6), "corners": [(0.3, 0.3), (0.5, 0.6)]}]
    made.do("set_page", page=2, views=views)
    one, two, three = made.document.sheets()
    assert three.look(1).turn == 90
    assert two.look(0).scale == pytest.approx(100 / 421)
    assert [v.side for v in two.look(0).views] == ["front"]
    assert not one.looks
    with pytest.raises(Refusal, match="no longer on the sheet"):
        made.do("set_page", page=6, turn=90)


def test_a_sheet_taken_away_leaves_its_callouts_and_the_later_pages_move_up() -> None:
    made = three_sheets()
    made.do("remove_sheet", number=1)
    assert shown(made) == {
        "b1": (0, True), "b2": (1, True), "b3": (0, False), "b4": (2, True), "b5": (3, True), "b6": (4, True),
    }  # fmt: skip
    made.do("set_sheet", sheet=None)
    assert [s.name for s in made.document.sheets()] == ["three"]
    assert shown(made)["b4"] == (0, True)
    with pytest.raises(Refusal, match="no longer with the part"):
        made.do("remove_sheet", number=1)


def test_a_sheet_of_other_length_in_place_of_the_first_keeps_the_pages_of_the_others() -> None:
    made = three_sheets()
    made.do("set_sheet", sheet=sheet("one, other", 4, "d"))
    assert {i: p for i, (p, _) in shown(made).items()} == {"b1": 0, "b2": 1, "b3": 4, "b4": 5, "b5": 6, "b6": 7}


def test_a_newer_issue_moves_balloons_and_tells_what_changed() -> None:
    made = three_sheets()
    places = {"b4": (0, (0.1, 0.2)), "b5": (1, (0.3, 0.4))}
    made.do(
        "newer_sheet", number=2, sheet=sheet("three, issue 2", 2, "e"), places=places, says={"b5": "41", "b6": GONE}
    )
    now = {b.id: b for b in made.document.callouts}
    assert (now["b4"].page, now["b4"].at, now["b4"].newer) == (3, (0.1, 0.2), "")
    assert (now["b5"].page, now["b5"].at, now["b5"].newer) == (4, (0.3, 0.4), "41")
    assert now["b6"].newer == GONE
    assert now["b6"].page <= 4
    assert now["b1"].at == (0.5, 0.5)
    states = {v["callout"]: (v["state"], v["said"]) for v in prove(made.document, made.build())}
    assert states["b5"] == ("changed", "now 41 on the sheet")
    assert states["b6"] == ("changed", "no longer on the sheet")
    with pytest.raises(Refusal, match="not on this sheet any more"):
        made.do("newer_sheet", number=0, sheet=sheet("x"), says={"b5": "9"})


def test_what_a_newer_issue_says_is_taken_and_followed() -> None:
    made = plate()
    made.do("set_sheet", sheet=sheet("one"))
    made.do("set_callout", callout=callout(1, text="40"))
    made.do("link_callout", callout="b1", step="s1", field="d1")
    made.do("newer_sheet", number=0, sheet=sheet("two", sha="b"), places={"b1": (0, (0.5, 0.5))}, says={"b1": "44"})
    assert made.volume() == pytest.approx(40 * 30 * 10)
    made.do("set_callout", callout={**made.document.callouts[0].model_dump(), "text": "44", "newer": ""})
    assert made.volume() == pytest.approx(44 * 30 * 10)
    assert prove(made.document, made.build())[0]["state"] == "proven"


# -- what is found again -----------------------------------------------------------------------------------


def reading(*texts: tuple[str, float, float], notes: tuple[tuple[str, float, float], ...] = ()) -> dict[str, Any]:
    def one(text: str, x: float, y: float) -> dict[str, Any]:
        box = (x - 0.01, y - 0.005, x + 0.01, y + 0.005)
        return {"text": text, "box": box, "turn": 0.0, "at": (x + 0.03, y)}

    said = {"sizes": [one(*t) for t in texts], "notes": [one(*t) for t in notes]}
    return {**said, "general": "", "scale": None, "unit": None, "points": A4, "views": []}


def issues(made: Made, old: dict[str, Any] | None, new: dict[str, Any] | None) -> Any:
    return newer([old], [new], made.document.callouts, "mm")


def ballooned(*texts: tuple[str, float, float]) -> Made:
    made = Made()
    made.do("set_sheet", sheet=sheet("one"))
    for n, (text, x, y) in enumerate(texts, 1):
        made.do("set_callout", callout=callout(n, text=text, at=(x + 0.02, y - 0.04)))
    return made


OLD = (("40", 0.3, 0.3), ("30", 0.6, 0.5), ("Ø6 THRU", 0.4, 0.7), ("R3", 0.2, 0.6))


def test_the_same_sizes_are_found_where_they_went_and_their_balloons_go_along() -> None:
    made = ballooned(*OLD)
    new = reading(("Ø6 THRU", 0.5, 0.75), ("40", 0.3, 0.3), ("30.0", 0.62, 0.52), ("R3", 0.2, 0.6))
    found = issues(made, reading(*OLD), new)
    assert not found.says
    assert found.places["b1"] == (0, pytest.approx((0.32, 0.26)))  # as it was, though its place was its own
    assert found.places["b3"] == (0, pytest.approx((0.52, 0.71)))  # as far off its text as before
    assert found.places["b2"] == (0, pytest.approx((0.64, 0.48)))  # 30.0 is 30
    assert found.fresh == 0


def test_a_changed_size_a_gone_one_and_a_new_one_are_told() -> None:
    made = ballooned(*OLD)
    new = reading(("42", 0.31, 0.3), ("30", 0.6, 0.5), ("Ø6.5 THRU", 0.4, 0.71), ("77", 0.9, 0.9))
    found = issues(made, reading(*OLD), new)
    assert found.says == {"b1": "42", "b3": "Ø6.5 THRU", "b4": GONE}
    assert found.fresh == 1
    assert found.said({"b1": 1, "b3": 3, "b4": 4}) == (
        "1 callouts are as they were; changed: 1, 3; no longer on the sheet: 4; 1 new sizes to be read."
    )


def test_twins_stay_each_where_it_was() -> None:
    made = ballooned(("15", 0.3, 0.3), ("15", 0.6, 0.3))
    found = issues(made, None, reading(("15", 0.6, 0.31), ("15", 0.3, 0.31)))
    assert found.places["b1"][1][0] < found.places["b2"][1][0]
    one_left = issues(made, None, reading(("15", 0.6, 0.31)))
    assert one_left.says == {"b1": GONE}


def test_a_newer_sheet_that_is_a_picture_changes_nothing() -> None:
    found = issues(ballooned(*OLD), reading(*OLD), None)
    assert (found.places, found.says) == ({}, {})


def test_a_note_is_found_again_too() -> None:
    made = ballooned(("BREAK EDGES", 0.1, 0.9))
    found = issues(made, None, reading(notes=(("BREAK EDGES", 0.1, 0.8),)))
    assert found.says == {}
    assert issues(made, None, reading(("12", 0.1, 0.9))).says == {"b1": GONE}


@pytest.mark.parametrize("part", ["tilt-arm", "boom-clamp", "camera-cradle"])
def test_the_demos_sheets_read_as_their_own_newer_issue_change_nothing(part: str) -> None:
    said, _ = sheet_reading((DEMO / f"{part}.svg").read_bytes(), "image/svg+xml", 0)
    made = Made()
    made.do("set_sheet", sheet=sheet("one"))
    for n, s in enumerate(said["sizes"], 1):
        made.do("set_callout", callout=callout(n, text=s["text"], at=tuple(s["at"])))
    found = issues(made, said, said)
    assert found.says == {}
    assert found.fresh == 0
    assert all(found.places[b.id][1] == pytest.approx(b.at, abs=1e-9) for b in made.document.callouts)
