"""The table of values: every one with what it gives and where it is used; renamed everywhere; cycles told."""

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.value_table import free_name, value_table

from .parts import Made, disc, plate


def table(made: Made) -> dict[str, tuple[str, float | None, list[str]]]:
    return {r["name"] or r["what"]: (r["expr"], r["value"], r["used"]) for r in value_table(made.document)}


def test_all_values_with_their_uses() -> None:
    made = plate(unit="mm")
    made.do("set_value", name="wall", expr="2.5")
    made.do("set_value", name="lean", expr="30°", kind="angle")
    made.do("set_value", name="twice", expr="2*wall")
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"name": "length"})
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "length - 4*wall"})
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "twice + wall"}})
    assert table(made) == {
        "wall": ("2.5", 2.5, ["twice", "Sketch 10: distance of line 2", "Extrude 20: depth"]),
        "lean": ("30°", 30, []),
        "twice": ("2*wall", 5, ["Extrude 20: depth"]),
        "length": ("40", 40, ["Sketch 10: distance of line 2"]),
        "distance of line 2 in Sketch 10": ("length - 4*wall", 30, []),
        "depth of Extrude 20": ("twice + wall", 7.5, []),
    }
    made.do("set_value", name="wall", rename_to="shell")
    rows = table(made)
    assert rows["twice"][0] == "2*shell"
    assert rows["distance of line 2 in Sketch 10"][0] == "length - 4*shell"
    assert made.volume() == pytest.approx(40 * 30 * 7.5)
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"name": "reach"})
    assert table(made)["distance of line 2 in Sketch 10"][0] == "reach - 4*shell"


def test_inches_and_numbers() -> None:
    made = plate(2, 1, "1/2", unit="in")
    made.do("set_value", name="count", expr="6/4", kind="number")
    rows = table(made)
    assert rows["count"][1] == 1.5
    assert rows["depth of Extrude 20"][:2] == ("1/2", pytest.approx(12.7))


def test_what_is_used_stays_and_what_goes_round_is_refused() -> None:
    made = plate()
    made.do("set_value", name="a", expr="5")
    made.do("set_value", name="b", expr="a + 1")
    with pytest.raises(Refusal, match="used in value “b”"):
        made.do("delete_value", name="a")
    with pytest.raises(Refusal, match=r"round in a circle: (a → b → a|b → a → b)"):
        made.do("set_value", name="a", expr="b")
    with pytest.raises(Refusal, match="is taken"):
        made.do("set_value", name="a", rename_to="b")
    made.do("delete_value", name="b")
    made.do("delete_value", name="a")
    assert "a" not in table(made)


def test_a_free_name() -> None:
    made = plate()
    assert free_name(made.document) == "size1"
    made.do("set_value", name="size1", expr="5")
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"name": "size2"})
    assert free_name(made.document) == "size3"


def test_every_row_writes_its_own_place() -> None:
    """Of all kinds of step: an expression typed in a row comes to stand in that row, and nothing else changes."""
    made = plate()
    made.do("sketch_add", step="s1", entities=[{"kind": "circle", "id": "c1", "c": (20, 15), "r": 2}])
    made.do("sketch_pattern", step="s1", ids=["c1"], counts=["2"], start=(20, 15), ends=[(26, 15)], spacings=["6"])
    made.do("set_value", name="wall", expr="2")
    made.sketch("s3", "top", disc((8, 8), 3))
    two = {"kind": "two_depths", "depth": "4", "back": "3"}
    made.do("add_step", step={"kind": "extrude", "id": "s4", "sketch": "s3", "extent": two, "taper": "1"})
    sides = [{"faces": [{"by": "pick", "face": {"origins": [f"s2/side/l{n}"]}}], "thickness": "3"} for n in (1, 2)]
    made.step("shell", "s5", thickness="1.5", own=sides)
    edges = [{"by": "along", "axis": a, "step": "s2"} for a in "zx"]
    made.step("fillet", "s6", groups=[{"radius": "1", "edges": [edges[0]]}, {"radius": "0.5", "edges": [edges[1]]}])
    rows = value_table(made.document)
    assert len({(r["step"], r["path"]) for r in rows}) == len(rows) > 10
    for row in rows:
        expr = "3" if row["kind"] == "number" else "1.25"
        before = {(r["step"], r["path"]): r["expr"] for r in value_table(made.document)}
        after = apply(
            made.document, read({"do": "set_expression", "step": row["step"], "path": row["path"], "expr": expr})
        )
        now = {(r["step"], r["path"]): r["expr"] for r in value_table(after.document)}
        assert now == before | {(row["step"], row["path"]): expr}


def test_a_row_that_is_gone_is_refused() -> None:
    made = plate()
    for path in ("extent.back", "depth", "d9"):
        with pytest.raises(Refusal):
            made.do("set_expression", step="s1" if path == "d9" else "s2", path=path, expr="3")
