"""The profile check finds what keeps a profile from closing, and mending puts it right and tells the counts."""

import math
import random
import re
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.check import KINDS, Check, check, default_tolerance
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.mend import mend
from sulvak_core.sketch.model import Line, Sketch, sweep_of
from sulvak_core.sketch.profiles import profile
from tests.examples import examples

from .sketches import A, arc, circle, line, rectangle, residual, sizes, slot, ties, values

VALUES = Values(lambda text, kind: float(text))
BOX = [(0, 0), (40, 0), (40, 30), (0, 30)]


def ring(*corners: tuple[float, float], first: int = 1) -> list[Line]:
    return [line(first + i, p, corners[(i + 1) % len(corners)]) for i, p in enumerate(corners)]


def of(*entities: Any, rows: tuple[str, ...] = ()) -> Sketch:
    return Sketch(entities=list(entities), constraints=ties(*rows))


def kinds(found: Check) -> dict[str, int]:
    return found.counts


def area(sketch: Sketch) -> float:
    return sum(r.area for r in profile(sketch).default())


# what is wrong, the finding expected, where, the refs it names, area once mended (None: cannot be mended)
def broken() -> dict[str, tuple[Sketch, str, tuple[float, float], set[str], float | None]]:
    box = ring(*BOX)
    gap = [box[0].model_copy(update={"q": (39.9, 0.05)}), *box[1:]]
    missed = [*box, line(5, (20, 0.1), (20, 30))]
    over = [box[0].model_copy(update={"q": (40.2, 0)}), *box[1:]]
    tail = [box[0].model_copy(update={"q": (46, 0)}), *box[1:]]
    tiny = [box[0].model_copy(update={"q": (39.99, 0)}), line(9, (39.99, 0), (40, 0)), *box[1:]]
    lap = [line(1, (0, 0), (25, 0)), line(5, (20, 0), (40, 0)), *box[1:]]
    inside = [*box, line(5, (10, 0), (30, 0))]
    return {
        "gap": (of(*gap), "gap", (39.95, 0.025), {"l1.q", "l2.p"}, 1200),
        "end beside a line": (of(*missed), "near miss", (20, 0.1), {"l5.p", "l1"}, 1200),
        "end a little past a corner": (of(*over), "near miss", (40.2, 0), {"l1.q", "l2.p"}, 1200),
        "tail past a corner": (of(*tail), "tail", (43, 0), {"l1"}, 1200),
        "leftover between two lines": (of(*tiny), "tiny", (39.995, 0), {"l9"}, 1200),
        "line drawn twice": (of(*box, line(5, (40, 0), (40, 30))), "duplicate", (40, 15), {"l2", "l5"}, 1200),
        "line drawn twice the other way": (
            of(*box, line(5, (40, 30), (40, 0))),
            "duplicate",
            (40, 15),
            {"l2", "l5"},
            1200,
        ),
        "circle drawn twice": (
            of(circle(1, (5, 5), 3), circle(2, (5, 5), 3)),
            "duplicate",
            (2, 5),
            {"c1", "c2"},
            9 * math.pi,
        ),
        "lines on each other": (of(*lap), "overlap", (30, 0), {"l1", "l5"}, 1200),
        "line inside another": (of(*inside), "overlap", (20, 0), {"l1", "l5"}, 1200),
        "arc on a circle": (
            of(circle(1, (0, 0), 4), arc(1, (0, 0), 4, 10, 80)),
            "overlap",
            (2.83, 2.83),
            {"c1", "a1"},
            16 * math.pi,
        ),
        "off the plane": (of(*box[:3], box[3].model_copy(update={"lift": 3})), "off plane", (0, 15), {"l4"}, 1200),
        "a side missing": (of(*box[:3]), "open chain", (0, 0), {"l1", "l2", "l3"}, None),
        "a line that hangs on a corner": (of(*box, line(5, (40, 30), (43, 32))), "tail", (41.5, 31), {"l5"}, 1200),
        "two lines that hang on a side": (
            of(*box, line(5, (20, 0), (22, 2)), line(6, (22, 2), (22, 4))),
            "tail",
            (22, 3),
            {"l5", "l6"},
            1200,
        ),
        "a long line that hangs on a side may be a wall": (
            of(*box, line(5, (20, 0), (20, 20))),
            "open chain",
            (20, 20),
            {"l5"},
            None,
        ),
        "two that cross": (of(*box, line(5, (20, -9), (20, 39))), "tail", (20, -4.5), {"l5"}, 1200),
    }


@pytest.mark.parametrize("name", broken())
def test_what_is_wrong_is_found_in_words_and_mended(name: str) -> None:
    sketch, kind, (x, y), refs, whole = broken()[name]
    before = sketch.model_dump()
    found = check(sketch, 0.32)
    finding = next(f for f in found.findings if f.kind == kind)
    assert finding.at == pytest.approx((x, y), abs=0.01)
    assert set(finding.refs) == refs
    assert finding.said[0].isupper()
    assert finding.mends == (whole is not None)
    assert sum(found.counts.values()) == len(found.findings)
    if whole is None:
        with pytest.raises(Refusal, match="nothing of that left"):
            mend(sketch, VALUES, 0.32)
        return
    made = mend(sketch, VALUES, 0.32)
    assert sketch.model_dump() == before  # the old sketch stays
    assert area(made.sketch) == pytest.approx(whole, rel=0.01)
    assert made.after.troubles == 0, made.after.findings
    assert residual(made.sketch) < 1e-9
    assert made.said[0] == f"To mend: {len([f for f in found.findings if f.mends])} before, 0 now."


def test_a_clean_profile_has_no_findings() -> None:
    for sketch, regions in [(rectangle(), 1), (slot(), 1), (of(*ring(*BOX), circle(1, (10, 10), 3)), 2), (Sketch(), 0)]:
        found = check(sketch)
        assert (found.findings, found.regions) == ([], regions)


def test_crossing_and_branching_are_told_but_left_alone() -> None:
    crossing = of(circle(1, (0, 0), 10), circle(2, (12, 0), 10))
    found = check(crossing)
    assert kinds(found) == {"crossing": 2}
    assert found.troubles == 0
    assert found.findings[0].said == "Circle 1 and circle 2 cross"
    divided = of(*ring(*BOX), line(5, (20, 0), (20, 30)))
    assert kinds(check(divided)) == {"branching": 2}
    assert "more than one region" in check(divided).findings[0].said


def test_construction_geometry_is_left_out() -> None:
    helper = line(5, (1, 1), (9, 9), construction=True)
    assert check(of(*ring(*BOX), helper)).findings == []


def test_wider_gaps_than_the_tolerance_stay_open() -> None:
    """Gaps are never closed beyond what was allowed: it stays a chain that ends here."""
    box = ring(*BOX)
    sketch = of(box[0].model_copy(update={"q": (38, 0)}), *box[1:])
    assert kinds(check(sketch, 0.5)) == {"open chain": 1}
    assert kinds(check(sketch, 2.5)) == {"gap": 1}
    assert area(mend(sketch, VALUES, 2.5).sketch) > 1100


def test_only_what_was_chosen_is_mended() -> None:
    box = ring(*BOX)
    sketch = of(
        box[0].model_copy(update={"q": (39.9, 0)}),
        *box[1:],
        line(5, (0, 0), (0, 30)),
        circle(1, (9, 9), 3),
        circle(2, (9, 9), 3),
    )
    found = check(sketch, 0.3)
    assert found.counts == {"duplicate": 2, "gap": 1}
    gaps = mend(sketch, VALUES, 0.3, kinds=["gap"])
    assert gaps.after.counts == {"duplicate": 2}
    one = mend(sketch, VALUES, 0.3, keys=[found.findings[0].key])
    assert one.after.counts == {"duplicate": 1, "gap": 1}
    assert "1 entity fewer." in one.said


def test_what_hung_on_a_doubled_line_hangs_on_the_one_that_stays() -> None:
    box = ring(*BOX)
    sketch = of(
        *box,
        line(5, (40, 30), (40, 0)),
        rows=("coincident l1.q l5.q", "coincident l5.p l3.p", "vertical l5", "vertical l2"),
    )
    sketch.dimensions = sizes("distance 30 l5", "distance 30 l5.p l1")
    made = mend(sketch, VALUES, 0.3).sketch
    assert made.entity("l5") is None
    said = {(t.kind, frozenset(t.refs)) for t in [*made.constraints, *made.dimensions]}
    assert said == {
        ("coincident", frozenset({"l1.q", "l2.p"})),
        ("coincident", frozenset({"l2.q", "l3.p"})),
        ("vertical", frozenset({"l2"})),
        ("distance", frozenset({"l2"})),
        ("distance", frozenset({"l2.q", "l1"})),
    }


def test_a_leftover_that_was_joined_leaves_its_neighbours_joined() -> None:
    box = ring(*BOX)
    sketch = of(
        box[0].model_copy(update={"q": (39.98, 0)}),
        line(9, (39.98, 0), (40, 0)),
        *box[1:],
        rows=("coincident l1.q l9.p", "coincident l9.q l2.p"),
    )
    made = mend(sketch, VALUES, 0.32).sketch
    assert made.entity("l9") is None
    assert {"l1.q", "l2.p"} in [set(c.refs) for c in made.constraints]


def test_what_only_touches_is_joined_before_anything_moves() -> None:
    """Closing the gap at one corner must not pull the other three open."""
    box = ring(*BOX)
    made = mend(of(box[0].model_copy(update={"q": (39.8, 0)}), *box[1:]), VALUES, 0.3).sketch
    assert len(made.constraints) == 4
    assert area(made) == pytest.approx(1200, abs=4)
    assert check(made, 0.001).findings == []


def test_a_gap_that_constraints_hold_open_stays_and_is_told() -> None:
    held = rectangle()
    held.constraints = [c for c in held.constraints if set(c.refs) != {"l2.q", "l3.p"}]
    held.constraints += [c.model_copy(update={"id": f"m{i}"}) for i, c in enumerate(ties("fixed l2", "fixed l3"))]
    entities = list(held.entities)
    entities[1] = line(2, (40, 0), (40, 29.9))
    held = held.model_copy(update={"entities": entities})
    found = check(held, 0.3)
    assert found.counts == {"gap": 1}
    made = mend(held, VALUES, 0.3)
    assert made.after.counts == {"gap": 1}
    assert "1 could not be mended without breaking a constraint; it stays." in made.said


@pytest.mark.parametrize(
    ("one", "two", "start", "end"),
    [
        ((0, 100), (80, 160), 0, 160),
        ((80, 160), (0, 100), 0, 160),
        ((0, 170), (20, 60), 0, 170),
        ((300, 40), (20, 90), 300, 90),
    ],
)
def test_arcs_on_one_circle_become_one(one: Any, two: Any, start: float, end: float) -> None:
    made = mend(of(arc(1, (3, 4), 10, *one), arc(2, (3, 4), 10, *two)), VALUES, 0.3, kinds=["overlap"]).sketch
    assert len(made.entities) == 1
    kept = made.entities[0]
    assert isinstance(kept, A)
    want = arc(9, (3, 4), 10, start, end)
    assert kept.p == pytest.approx(want.p)
    assert kept.q == pytest.approx(want.q)


def test_the_tolerance_follows_the_size() -> None:
    assert default_tolerance(of(line(1, (0, 0), (2, 0)))) == 0.01
    assert default_tolerance(of(line(1, (0, 0), (100, 0)))) == pytest.approx(0.32)
    assert default_tolerance(of(line(1, (0, 0), (4000, 0)))) == 0.5


def test_many_entities_are_checked_quickly_enough_to_be_live() -> None:
    """2,000 lines: the work grows with what lies near each other, not with all pairs."""
    rows = []
    for k in range(500):
        x, y = 10 * (k % 25), 10 * (k // 25)
        rows += ring((x, y), (x + 6, y), (x + 6, y + 6), (x, y + 6.05), first=4 * k + 1)
    found = check(Sketch(entities=rows), 0.02)
    assert found.counts == {}
    assert found.regions == 500


def spoilt(corners: int, seed: int) -> tuple[Sketch, float]:
    """A closed outline with every kind of mistake that mending knows, and the area it was meant to have."""
    pick = random.Random(seed)
    angles = sorted(2 * math.pi * (k + 0.5 * pick.random()) / corners for k in range(corners))
    at = [(50 + 40 * math.cos(a), 45 + 38 * math.sin(a)) for a in angles]
    meant = profile(Sketch(entities=ring(*at))).regions[0].area
    lines = ring(*at)
    entities: list[Any] = []
    number = 100
    for entity in lines:
        dx, dy = entity.q[0] - entity.p[0], entity.q[1] - entity.p[1]
        n = math.hypot(dx, dy)
        what = pick.choice(["as it is", "short", "long", "doubled", "lapped", "lifted", "tail"])
        number += 1
        if what == "short":
            entity = entity.model_copy(update={"q": (entity.q[0] - 0.08 * dx / n, entity.q[1] - 0.08 * dy / n)})
        elif what == "long":
            entity = entity.model_copy(update={"q": (entity.q[0] + 0.08 * dx / n, entity.q[1] + 0.08 * dy / n)})
        elif what == "doubled":
            entities.append(line(number, entity.q, entity.p))
        elif what == "lapped":
            middle = (entity.p[0] + 0.6 * dx, entity.p[1] + 0.6 * dy)
            early = (entity.p[0] + 0.4 * dx, entity.p[1] + 0.4 * dy)
            entities.append(line(number, early, entity.q))
            entity = entity.model_copy(update={"q": middle})
        elif what == "lifted":
            entity = entity.model_copy(update={"lift": -1.5})
        elif what == "tail":
            entity = entity.model_copy(update={"q": (entity.q[0] + 3 * dx / n, entity.q[1] + 3 * dy / n)})
        entities.append(entity)
    pick.shuffle(entities)
    return Sketch(entities=entities), meant


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(4, 14), st.integers(0, 10**6))
def test_a_spoilt_outline_is_whole_again(corners: int, seed: int) -> None:
    sketch, meant = spoilt(corners, seed)
    try:
        made = mend(sketch, VALUES, 0.2)
    except Refusal:
        assert check(sketch, 0.2).findings == []
        made = mend(
            sketch.model_copy(
                update={"entities": [*sketch.entities, sketch.entities[0].model_copy(update={"id": "l999"})]}
            ),
            VALUES,
            0.2,
        )
    assert made.after.counts == {}, (made.after.findings, made.said)
    assert made.after.regions == 1
    assert area(made.sketch) == pytest.approx(meant, rel=0.01)
    assert residual(made.sketch) < 1e-9
    again = mend(sketch, VALUES, 0.2) if made.before.findings and made.sketch.entity("l999") is None else made
    assert again.sketch == made.sketch
    assert values(made.sketch) == {}
    assert list(made.after.counts) == [k for k in KINDS if k in made.after.counts]


def rounded(pick: random.Random, x: float, first: int) -> tuple[list[Any], float]:
    """A plate with rounded corners and a hole, and its area."""
    w, h, r, hole = pick.uniform(20, 40), pick.uniform(15, 30), pick.uniform(2, 6), pick.uniform(1, 3)
    n = first
    made: list[Any] = []
    for i, (cx, cy) in enumerate([(x + w - r, r), (x + w - r, h - r), (x + r, h - r), (x + r, r)]):
        made.append(arc(n + i, (cx, cy), r, 90 * i - 90, 90 * i))
    for i, bow in enumerate(list(made)):
        made.append(line(n + i, bow.q, made[(i + 1) % 4].p))
    made.append(circle(n, (x + w / 2, h / 2), hole))
    return made, w * h - (4 - math.pi) * r * r - math.pi * hole * hole


def spoil(pick: random.Random, e: Any, number: int) -> list[Any]:
    """One of the mistakes that files bring, done to a line, an arc or a circle."""
    what = pick.choice(["as it is", "as it is", "moved", "short", "twice", "lifted", "leftover", "lapped"])
    if what == "moved":
        dx, dy = pick.uniform(-0.05, 0.05), pick.uniform(-0.05, 0.05)
        return [e.model_copy(update={k: (v[0] + dx, v[1] + dy) for k in "pqc" if (v := getattr(e, k, None))})]
    if what == "twice":
        return [e, e.model_copy(update={"id": f"{e.id[0]}{number}"})]
    if what == "lifted":
        return [e.model_copy(update={"lift": 2.0})]
    if isinstance(e, Line) and what in ("short", "leftover"):
        d = math.dist(e.p, e.q)
        back = 0.06 if what == "short" else 0.02
        end = (e.q[0] - back * (e.q[0] - e.p[0]) / d, e.q[1] - back * (e.q[1] - e.p[1]) / d)
        return [e.model_copy(update={"q": end}), *([line(number, end, e.q)] if what == "leftover" else [])]
    if isinstance(e, A) and what in ("short", "lapped"):
        start, sweep = sweep_of(e)

        def on(t: float) -> tuple[float, float]:
            return e.c[0] + e.r * math.cos(start + t * sweep), e.c[1] + e.r * math.sin(start + t * sweep)

        if what == "short":
            return [e.model_copy(update={"q": on(1 - 0.05 / (e.r * sweep))})]
        return [e.model_copy(update={"q": on(0.6)}), e.model_copy(update={"id": f"a{number}", "p": on(0.4)})]
    return [e]


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(1, 3), st.integers(0, 10**6))
def test_spoilt_plates_with_round_corners_are_whole_again(count: int, seed: int) -> None:
    pick = random.Random(seed)
    entities: list[Any] = []
    meant = 0.0
    for k in range(count):
        made, part = rounded(pick, 60 * k, 10 * k + 1)
        meant += part
        for i, e in enumerate(made):
            entities += spoil(pick, e, 100 + 10 * k + i)
    pick.shuffle(entities)
    sketch = Sketch(entities=entities)
    if not check(sketch, 0.2).troubles:
        return
    made_whole = mend(sketch, VALUES, 0.2)
    assert made_whole.after.counts == {}, made_whole.after.findings
    assert made_whole.after.regions == 2 * count
    assert area(made_whole.sketch) == pytest.approx(meant, rel=0.01)
    assert residual(made_whole.sketch) < 1e-9


def test_the_parts_own_edges_are_no_trouble() -> None:
    """A notch of three lines against an edge of the part, which sticks out on both sides and is drawn over besides."""
    edge = line(9, (-20, 0), (60, 0))
    notch = [line(1, (0, 0), (0, 10)), line(2, (0, 10), (30, 10)), line(3, (30, 10), (30, 0))]
    found = check(Sketch(entities=[edge, *notch], given=["l9"]))
    assert (found.counts, found.regions) == ({}, 1)
    found = check(Sketch(entities=[edge, *notch, line(4, (30, 0), (0, 0))], given=["l9"]))
    assert (found.counts, found.regions) == ({}, 1)
    # what is the designer's own is still told
    found = check(Sketch(entities=[edge, *notch, line(4, (30, 0), (0, 0)), line(5, (0, 10), (0, 0))], given=["l9"]))
    assert found.counts == {"duplicate": 1}
    found = check(Sketch(entities=[edge, *notch[:2]], given=["l9"]))
    assert found.regions == 0
    assert found.counts


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ([line(8, (40, 30), (60, 40))], "line 8 does not close: it ends free at end of line 8, and hangs on line 2"),
        ([line(8, (50, 0), (60, 0)), line(9, (60, 0), (60, 12))], "2 entities does not close: .* are 15.6205 mm apart"),
        ([circle(1, (20, 15), 5), line(8, (0, 0), (15, 15))], "runs from line 1 to circle 1 and bounds nothing"),
    ],
)  # fmt: skip
def test_it_is_told_why_a_chain_does_not_close(more: list[Any], why: str) -> None:
    found = check(Sketch(entities=[*rectangle().entities, *more]))
    (chain,) = [f for f in found.findings if f.kind == "open chain"]
    assert re.search(why, chain.said), chain.said


def test_edges_of_the_part_on_each_other_are_named() -> None:
    edges = [line(8, (0, 0), (40, 0)), line(9, (50, 0), (10, 0)), line(7, (0, 9), (4, 9)), line(6, (4, 9), (0, 9))]
    found = check(Sketch(entities=edges, given=["l6", "l7", "l8", "l9"]))
    assert found.counts == {"part edges": 2}
    assert found.troubles == 0
    assert {f.refs for f in found.findings} == {("l8", "l9"), ("l7", "l6")}
    assert any("lie on each other for 30 mm; line 8 counts there" in f.said for f in found.findings)
