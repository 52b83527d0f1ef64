"""Callouts worked out from others, and the general tolerance: what is asked for, followed, refused and proven."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.inspect.prove import prove
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.worked_out import told, worked_out
from sulvak_core.steps import commands
from sulvak_core.steps.effects import apply
from sulvak_core.steps.part_view import content
from sulvak_core.steps.registry import Document, Opened, load, to_json
from sulvak_core.steps.shared import read_callout

from .parts import plate


def do(document: Document, **command: Any) -> Document:
    return apply(document, commands.read(command)).document


def with_callouts(*texts: str, **more: Any) -> Document:
    callouts = [{"id": f"b{i}", "number": i, "text": t} for i, t in enumerate(texts, 1)]
    return load({"name": "bar", "callouts": callouts, **more})


def work(document: Document, worked: str, ident: str = "b9") -> Document:
    return do(document, do="set_callout", callout={"id": ident, "number": int(ident[1:]), "text": "", "worked": worked})


def asked(document: Document, ident: str) -> Any:
    return read_callout(document, next(b for b in document.callouts if b.id == ident))


def test_what_is_left_between_two() -> None:
    document = work(with_callouts("110", "18"), "b1 - b2 - b2")
    r = asked(document, "b9")
    assert (r.kind, r.nominal, r.typed, r.toleranced) == ("linear", 74, "74 mm", False)
    view = content(Opened(to_json(document), document))["callouts"]["b9"]
    assert (view["came"], view["said"]) == ("110 − 18 − 18", "74 mm")


def test_the_worst_the_others_allow() -> None:
    r = asked(work(with_callouts("110 ±0.2", "18 +0.1/0"), "b1 - 2 * b2"), "b9")
    assert (r.nominal, r.lower, r.upper) == (74, pytest.approx(-0.4), pytest.approx(0.2))
    ratio = asked(work(with_callouts("60 ±1", "6"), "b1 / b2 * b2"), "b9")
    assert (ratio.lower, ratio.upper) == (pytest.approx(-1), pytest.approx(1))


def test_angles_and_inches() -> None:
    r = asked(work(with_callouts("90°", "30° ±1°"), "b1 - b2"), "b9")
    assert (r.kind, r.nominal, r.typed) == ("angle", 60, "60°")
    assert r.upper == pytest.approx(1)
    inch = asked(work(with_callouts("2", "0.5", unit="in"), "b1 - b2 + 1"), "b9")
    assert inch.nominal == pytest.approx(2.5 * 25.4)


def test_it_follows_and_feeds_what_it_is_linked_to() -> None:
    made = plate(70)
    for number, text in ((1, "110"), (2, "18")):
        made.do("set_callout", callout={"id": f"b{number}", "number": number, "text": text})
    document = work(work(made.document, "b1 - 2 * b2", "b3"), "b3 / 2", "b4")
    document = do(document, do="link_callout", callout="b4", step="s1", field="d1")
    assert _sketch(document).dimensions[0].expr == "37 mm"
    document = do(document, do="set_callout", callout={"id": "b2", "number": 2, "text": "20"})
    sketch = _sketch(document)
    assert sketch.dimensions[0].expr == "35 mm"
    line = sketch.entity("l1")
    assert math.dist(line.p, line.q) == pytest.approx(35)


def _sketch(document: Document) -> Any:
    return next(s for s in document.steps if s.id == "s1").sketch


@pytest.mark.parametrize(
    ("worked", "words"),
    [
        ("b1 - b7", "press their balloons"),
        ("12 - 3", "press their balloons"),
        ("b1 -", "cannot be worked out"),
        ("b1 * b2", "length is wanted"),
        ("b2 - b1", "less than nothing"),
        ("b1 - b3", "one of these is a note"),
        ("b1 - b9", "press their balloons"),
    ],
)
def test_what_cannot_be_worked_out_is_refused(worked: str, words: str) -> None:
    with pytest.raises(Refusal, match=words):
        work(with_callouts("110", "18", "BREAK EDGES"), worked)


def test_no_circles_and_no_loss() -> None:
    document = work(work(with_callouts("110", "18"), "b1 - b2", "b3"), "b3 - b2", "b4")
    with pytest.raises(Refusal, match="circle"):
        work(document, "b4 + b2", "b3")
    with pytest.raises(Refusal, match="3 is worked out"):
        do(document, do="delete_callout", callout="b1")
    gone = do(document, do="delete_callout", callout="b4")
    assert [b.id for b in gone.callouts] == ["b1", "b2", "b3"]


def test_a_file_with_a_circle_reads_as_notes() -> None:
    callouts = [{"id": f"b{i}", "number": i, "text": "", "worked": f"b{3 - i} + b{3 - i}"} for i in (1, 2)]
    document = load({"name": "bar", "callouts": callouts})
    assert asked(document, "b1").kind == "note"


sizes = st.integers(1, 400).map(lambda n: n / 4)


@given(st.lists(st.tuples(sizes, st.integers(0, 20).map(lambda n: n / 100)), min_size=2, max_size=4))
def test_the_limits_are_reached_and_no_more(given_sizes: list[tuple[float, float]]) -> None:
    """A sum of all but the first taken off a long first one: every corner of the tolerances lies within the limits, and
    the farthest ones on them."""
    texts = {f"b{i}": f"{size + (1000 if i == 0 else 0)} ±{by}" for i, (size, by) in enumerate(given_sizes)}
    others = {k: parse(v) for k, v in texts.items()}
    expression = " - ".join(texts)
    r = worked_out(expression, others.get)
    wanted = 1000 + given_sizes[0][0] - sum(s for s, _ in given_sizes[1:])
    spread = sum(by for _, by in given_sizes)
    assert r.nominal == pytest.approx(wanted)
    assert (r.lower, r.upper) == (pytest.approx(-spread), pytest.approx(spread))
    assert told(expression, {}, others).count("−") == len(texts) - 1


def test_the_general_tolerance_gives_limits_to_what_has_none() -> None:
    document = with_callouts("48", "48 ±0.1", "(48)", "R6", "30°", "2×45°", "M6")
    document = do(document, do="set_part", changes={"general_tolerance": "ISO 2768-m"})
    found = {b.text: asked(document, b.id) for b in document.callouts}
    limits = {k: r.upper for k, r in found.items() if r.general}
    assert limits == {"48": 0.3, "R6": 0.1, "30°": 1.0, "2×45°": 0.2}
    assert (found["48 ±0.1"].upper, found["(48)"].toleranced, found["M6"].toleranced) == (0.1, False, False)
    with pytest.raises(Refusal, match="ISO 2768-m"):
        do(document, do="set_part", changes={"general_tolerance": "about right"})


def test_by_decimals_it_stays_when_the_unit_changes() -> None:
    document = with_callouts("1.50", "1.500", unit="in", general_tolerance=".XX ±.01 .XXX ±.005")
    assert [asked(document, b.id).upper for b in document.callouts] == [pytest.approx(0.254), pytest.approx(0.127)]
    document = do(document, do="set_part", changes={"unit": "mm"})
    assert [asked(document, b.id).upper for b in document.callouts] == [pytest.approx(0.254), pytest.approx(0.127)]


def test_what_is_within_the_general_tolerance_is_proven_and_says_how_far_off() -> None:
    made = plate(depth="10")
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "10"})
    made.do("link_callout", callout="b1", step="s2", field="depth")
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "9.9"}})
    out, *_ = prove(made.document, made.build())
    assert out["state"] == "out"
    made.do("set_part", changes={"general_tolerance": "ISO 2768-m"})
    within, *_ = prove(made.document, made.build())
    assert within["state"] == "proven"
    assert within["said"] == "proven 9.9, 0.1 under 10"
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "9.7"}})
    assert prove(made.document, made.build())[0]["state"] == "out"


def test_balloons_are_numbered_around_the_page_by_size_or_by_hand() -> None:
    places = {"b1": (0.9, 0.5), "b2": (0.1, 0.9), "b3": (0.3, 0.1), "b4": None}
    texts = {"b1": "10", "b2": "⌀40", "b3": "NOTE", "b4": "25"}
    callouts = [{"id": k, "number": i, "text": texts[k], "at": at} for i, (k, at) in enumerate(places.items(), 3)]
    document = load({"name": "bar", "callouts": callouts})

    def order(**command: Any) -> list[str]:
        numbered = do(document, do="number_callouts", **command).callouts
        assert [c.id for c in numbered] == list(places)
        assert sorted(c.number for c in numbered) == [1, 2, 3, 4]
        return [c.id for c in sorted(numbered, key=lambda c: c.number)]

    assert order(by="around") == ["b3", "b1", "b2", "b4"]
    # view by view, the left one first: b3 and b2 stand at it, b1 at the other
    views = [{"page": 0, "box": [0.6, 0.2, 0.8, 0.8]}, {"page": 0, "box": [0.1, 0.2, 0.4, 0.8]}]
    assert order(by="views", views=views) == ["b3", "b2", "b1", "b4"]
    with pytest.raises(Refusal, match="No view is known"):
        do(document, do="number_callouts", by="views")
    assert order(by="size") == ["b2", "b4", "b1", "b3"]
    assert order(by="hand", order=["b4", "b2"]) == ["b4", "b2", "b1", "b3"]
    with pytest.raises(Refusal):
        do(document, do="number_callouts", by="hand", order=["b7"])
