"""Callouts measured between places of the part: kept as references, measured anew on every build."""

from __future__ import annotations

from typing import Any

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.inspect.prove import prove
from sulvak_core.sketch.model import Sketch

from .parts import Made, plate
from .sketches import circle, sizes, ties


def drilled() -> Made:
    """A plate 40 × 30 × 10 with two holes Ø6, 20 apart."""
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(
        entities=[circle(1, (10, 15), 3), circle(2, (30, 15), 3)],
        constraints=ties("equal c1 c2", "horizontal c1.c c2.c"),
        dimensions=sizes("diameter 6 c1", "distance 20 c1.c c2.c", "distance 10 c1.c y", "distance 15 c1.c x"),
    ))  # fmt: skip
    made.extrude("s4", "s3", None, "cut")
    return made


def face(*origins: str, near: tuple[float, float, float] | None = None) -> dict[str, Any]:
    return {"kind": "face", "origins": [list(origins)], "near": near}


def line(kind: str, one: str, two: str, near: tuple[float, float, float] | None = None) -> dict[str, Any]:
    return {"kind": kind, "origins": [[one], [two]], "near": near}


def verdict(made: Made, text: str, figure: str, *spots: dict[str, Any]) -> dict[str, Any]:
    ident = f"b{len(made.document.callouts) + 1}"
    gauged = {"spots": list(spots), "figure": figure}
    made.do("set_callout", callout={"id": ident, "number": int(ident[1:]), "text": text, "gauged": gauged})
    return prove(made.document, made.build())[-1]


WALLS = (face("s2/side/l2"), face("s2/side/l4"))
HOLES = (face("s4/side/c1"), face("s4/side/c2"))
CASES: list[tuple[str, str, tuple[dict[str, Any], ...], float]] = [
    ("40", "distance of the planes", WALLS, 40),
    ("20", "distance of the axes", HOLES, 20),
    ("Ø6", "diameter", HOLES[:1], 6),
    ("R3", "radius", HOLES[1:], 3),
    ("30", "length", (line("edge", "s2/side/l2", "s2/end"),), 30),
    ("50", "distance", (line("corner", "s2/side/l1", "s2/end", (0, 0, 10)),
                        line("corner", "s2/side/l3", "s2/end", (40, 30, 10))), 50),
    ("90°", "angle", (face("s2/side/l1"), face("s2/side/l2")), 90),
    ("10", "material behind this place", (face("s2/end", near=(20, 26, 10)),), 10),
]  # fmt: skip


@pytest.mark.parametrize(("text", "figure", "spots", "value"), CASES, ids=[c[1] for c in CASES])
def test_what_was_measured_is_proven(text: str, figure: str, spots: tuple[dict[str, Any], ...], value: float) -> None:
    found = verdict(drilled(), text, figure, *spots)
    assert (found["state"], found["measured"]) == ("proven", pytest.approx(value, abs=1e-9))


def test_it_is_measured_anew_when_the_part_changes_and_never_feeds_it() -> None:
    made = drilled()
    assert verdict(made, "20 ±0.5", "distance of the axes", *HOLES)["state"] == "proven"
    made.do("sketch_dimension", step="s3", dimension="d2", changes={"expr": "20.4"})
    [found] = prove(made.document, made.build())
    assert (found["state"], found["measured"]) == ("proven", pytest.approx(20.4))
    made.do("sketch_dimension", step="s3", dimension="d2", changes={"expr": "21"})
    [found] = prove(made.document, made.build())
    assert (found["state"], found["said"]) == ("out", "measures 21")
    volume = made.volume()
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "19"})  # its places are kept
    [found] = prove(made.document, made.build())
    assert found["state"] == "out"
    assert made.volume() == volume


def test_what_is_gone_is_told_and_a_link_takes_over() -> None:
    made = drilled()
    verdict(made, "20", "distance of the axes", *HOLES)
    made.do("set_step", step="s4", changes={"suppressed": True})
    [found] = prove(made.document, made.build())
    assert (found["state"], found["said"]) == ("used", "measured on the part; a face it measures is gone")
    made.do("set_step", step="s4", changes={"suppressed": False})
    made.do("link_callout", callout="b1", step="s3", field="d2")
    assert made.document.callouts[0].gauged is None
    assert prove(made.document, made.build())[0]["state"] == "proven"


@pytest.mark.parametrize(
    ("figure", "spots", "said"),
    [
        ("diameter", WALLS[:1], "no diameter any more"),
        ("length", (line("edge", "s2/side/l2", "s2/side/l4"),), "an edge it measures is gone"),
        ("X", (line("corner", "s2/side/l2", "s2/side/l4"),), "a corner it measures is gone"),
        ("volume", ({"kind": "body", "body": "s9"},), "the body it measures is gone"),
        ("length", ({"kind": "edge", "origins": [["s2/end"]]},), "was not kept"),
    ],
)
def test_what_cannot_be_measured_says_why(figure: str, spots: tuple[dict[str, Any], ...], said: str) -> None:
    found = verdict(drilled(), "12", figure, *spots)
    assert found["state"] == "used"
    assert said in found["said"]


def test_the_places_are_in_the_part_file() -> None:
    made = drilled()
    verdict(made, "40", "distance of the planes", *WALLS)
    again = part_file.read(part_file.write(made.document))
    assert again.callouts == made.document.callouts
    assert prove(again, made.build())[0]["state"] == "proven"
