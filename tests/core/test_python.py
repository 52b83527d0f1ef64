"""Sulvak from Python: the examples of its documentation, and what is refused."""

from __future__ import annotations

import doctest
import os
from pathlib import Path

import pytest

import sulvak

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(autouse=True)
def here(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(ROOT)


def test_the_examples_of_the_documentation_come_out_as_they_say() -> None:
    assert doctest.testfile(str(ROOT / "docs" / "python.md"), module_relative=False).failed == 0
    assert doctest.testmod(sulvak).failed == 0


def test_it_has_few_names_and_all_are_told_of() -> None:
    page = (ROOT / "docs" / "python.md").read_text()
    for name in sulvak.__all__:
        assert f"`{name}`" in page or f"sulvak.{name}" in page, name
    for name in vars(sulvak.Part) | vars(sulvak.Built):
        if not name.startswith("_") and name not in ("name", "number"):
            assert f"`{name}`" in page, name


def test_a_part_never_changes() -> None:
    part = sulvak.open("demo/tilt-arm.json")
    before = part.document.model_dump_json()
    part.set({"bore": 12}).do("set_part", changes={"name": "Another"}).build()
    assert part.document.model_dump_json() == before


def test_a_new_part_is_made_and_kept(tmp_path: Path) -> None:
    part = sulvak.new("Spacer", unit="in", material="Brass CW614N")
    part = part.do("add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    circle = {"kind": "circle", "id": "c1", "c": (0, 0), "r": 6.35}
    size = {"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "1/2", "name": "across"}
    part = part.do("sketch_add", step="s1", entities=[circle], dimensions=[size])
    extent = {"kind": "depth", "depth": "1"}
    part = part.do("add_step", step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": extent})
    assert part.build().volume == pytest.approx(3217.5, rel=1e-3)  # pi/4 x 12.7² x 25.4
    assert part.set(across=1).value("across") == 25.4
    part.save(tmp_path / "spacer.json")
    again = sulvak.open(tmp_path / "spacer.json")
    assert again.document == part.document


def test_what_cannot_be_done_says_why(tmp_path: Path) -> None:
    part = sulvak.open("demo/tilt-arm.json")
    (tmp_path / "x.json").write_bytes(b"ISO-10303-21;")
    for doing, says in (
        (lambda: sulvak.open(tmp_path / "x.json"), "STEP file"),
        (lambda: part.set({"s8.first": "90"}).build(), "Step 80"),
        (lambda: part.build().export(tmp_path / "a.step", tmp_path / "a.doc"), "not a.doc"),
        (lambda: part.build().check("taste"), "no check called"),
        (lambda: sulvak.new("Empty").build(), "no solid"),
        (lambda: part.build().release(tmp_path / "p.zip", by="wren"), "say why"),
        (lambda: list(sulvak.family(part, [{"bore": "12"}, {"depth": "1"}])), "Row 3: There is no size"),
    ):
        with pytest.raises(sulvak.Refusal, match=says):
            doing()
    assert sorted(os.listdir(tmp_path)) == ["x.json"]
