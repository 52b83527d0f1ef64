"""Callouts and expressions made up at random: written, read back, and worked out a second way."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from sulvak_core.part.errors import ExpressionError
from sulvak_core.part.expressions import Names, evaluate, names_in, rename_in
from sulvak_core.part.units import MM_PER, length, number
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.requirement import said

# -- callouts ------------------------------------------------------------------------------------------

sizes = st.integers(1, 99_999).map(lambda n: n / 100)
counts = st.integers(1, 400)


@st.composite
def callouts(draw: Any) -> tuple[str, dict[str, Any]]:
    """A callout as a drafter may write it, with what it asks for."""
    size, count = draw(sizes), draw(counts)
    sign, kind = draw(st.sampled_from([("", "linear"), ("Ø", "diameter"), ("⌀", "diameter"), ("R", "radius")]))
    wanted: dict[str, Any] = {"kind": kind, "nominal": pytest.approx(size), "count": count}
    text = f"{sign}{draw(st.sampled_from(['', ' '])) if sign != 'R' else ''}{size}"
    if count > 1 or draw(st.booleans()):
        spaced = [" X "] if sign else []  # between two bare numbers that is a chamfer's legs
        text = f"{count}{draw(st.sampled_from(['X ', 'x ', '× ', *spaced]))}{text}"
    tolerance = draw(st.sampled_from(["", "both", "two"]))
    wanted["toleranced"] = bool(tolerance)
    if tolerance == "both":
        by = draw(st.integers(1, 99)) / 100
        text += f"{draw(st.sampled_from([' ±', '±', ' +/-']))}{by}"
        wanted |= {"upper": pytest.approx(by), "lower": pytest.approx(-by)}
    elif tolerance == "two":
        up, down = draw(st.integers(0, 99)) / 100, draw(st.integers(0, 99)) / 100
        text += f" +{up}/-{down}"
        wanted |= {"upper": pytest.approx(up), "lower": pytest.approx(-down)}
    depth = draw(st.sampled_from(["", "thru", "deep"])) if kind == "diameter" else ""
    wanted["through"] = depth == "thru"
    if depth == "thru":
        text += draw(st.sampled_from([" THRU", " thru", " THRU ALL", " THROUGH"]))
    elif depth == "deep":
        deep = draw(sizes)
        text += f" {draw(st.sampled_from(['↧ ', '↧', 'DEEP ', 'DEPTH ']))}{deep}"
        wanted["depth"] = pytest.approx(deep)
    wanted["reference"] = draw(st.booleans())
    return (f"({text})" if wanted["reference"] else text), wanted


@given(callouts())
def test_a_callout_is_read_as_it_was_meant(made: tuple[str, dict[str, Any]]) -> None:
    text, wanted = made
    found = parse(text)
    assert {k: getattr(found, k) for k in wanted} == wanted


@given(callouts())
def test_what_is_said_tells_the_size_and_the_count(made: tuple[str, dict[str, Any]]) -> None:
    r = parse(made[0])
    words = said(r)
    assert r.nominal is not None
    assert number(r.nominal) in words
    assert (f"{r.count} × " in words) == (r.count > 1)
    assert words.endswith("for reference") == r.reference


@given(callouts())
def test_inches_are_the_same_figures_times_25_4(made: tuple[str, dict[str, Any]]) -> None:
    mm, inch = parse(made[0]), parse(made[0], "in")
    for field in ("nominal", "upper", "lower", "depth"):
        a, b = getattr(mm, field), getattr(inch, field)
        assert (a is None) == (b is None)
        if a is not None:
            assert b == pytest.approx(25.4 * a)


@given(callouts(), st.sampled_from(["mm", "in"]))
def test_the_size_can_be_typed_into_a_field(made: tuple[str, dict[str, Any]], unit: Any) -> None:
    r = parse(made[0], unit)
    assert r.nominal == pytest.approx(evaluate(r.typed, "length", unit))


@given(callouts(), st.sampled_from(["zz", "!", "3 4 5", "±", "X"]))
def test_with_something_unreadable_it_is_a_note(made: tuple[str, dict[str, Any]], more: str) -> None:
    assert parse(f"{made[0]} {more}").kind == "note"


# -- expressions -----------------------------------------------------------------------------------------

numbers = st.integers(1, 999).map(lambda n: (str(n / 10), n / 10))


def _joined(children: Any) -> Any:
    def join(parts: Any) -> tuple[str, float]:
        (a, x), op, (b, y) = parts
        value = {"+": x + y, "-": x - y, "*": x * y, "/": x / y if y else math.nan}[op]
        return f"({a} {op} {b})", value

    return st.tuples(children, st.sampled_from("+-*/"), children).map(join)


sums = st.recursive(numbers, lambda c: _joined(c) | c.map(lambda e: (f"-{e[0]}", -e[1])), max_leaves=12)


@given(sums)
def test_sums_come_out_as_arithmetic_has_it(made: tuple[str, float]) -> None:
    text, value = made
    assume(math.isfinite(value) and abs(value) < 1e8 and len(text) <= 190)
    assert evaluate(text, "number") == pytest.approx(value, rel=1e-9, abs=1e-9)
    assert evaluate(text, "angle") == pytest.approx(value, rel=1e-9, abs=1e-9)


@given(sums, st.sampled_from(sorted(MM_PER)))
def test_a_unit_counts_for_all_it_stands_behind(made: tuple[str, float], unit: str) -> None:
    text, value = made
    assume(math.isfinite(value) and abs(value) * MM_PER[unit] < 1e8 and len(text) <= 190)
    assert evaluate(f"({text}) {unit}") == pytest.approx(value * MM_PER[unit], rel=1e-9, abs=1e-9)


@given(st.integers(0, 60), st.integers(1, 63), st.sampled_from([2, 4, 8, 16, 32, 64]))
@example(1, 1, 2)
def test_mixed_inches(whole: int, over: int, under: int) -> None:
    text = f'{whole} {over}/{under}"' if whole else f'{over}/{under}"'
    assert evaluate(text) == pytest.approx((whole + over / under) * 25.4, rel=1e-12)


@given(st.lists(st.tuples(st.sampled_from("abcdef"), st.sampled_from("abcdef")), max_size=6))
def test_cycles_are_named_and_everything_else_has_a_value(ties: list[tuple[str, str]]) -> None:
    """Each value is one more than those it names; a value in a ring, or on the way to one, has none."""
    needs: dict[str, set[str]] = {n: set() for n in "abcdef"}
    for a, b in ties:
        needs[a].add(b)
    known = Names({n: (" + ".join(["1", *sorted(needs[n])]), "number") for n in needs}, "mm")

    def worth(n: str, above: tuple[str, ...] = ()) -> float:
        if n in above:
            raise RecursionError
        return 1 + sum(worth(m, (*above, n)) for m in needs[n])

    for n in needs:
        try:
            wanted: float | None = worth(n)
        except RecursionError:
            wanted = None
        if wanted is None:
            with pytest.raises(ExpressionError, match="→"):
                known.value(n, "number")
        else:
            assert known.value(n, "number") == wanted


@given(sums, st.sampled_from(["width", "x", "b2"]))
def test_a_renamed_value_gives_the_same(made: tuple[str, float], name: str) -> None:
    text, value = made
    assume(math.isfinite(value) and abs(value) < 1e6 and len(text) <= 150)
    formula = f"{name} + {text} * {name}"
    renamed = rename_in(formula, name, "other")
    assert names_in(renamed) == {"other"}
    one = Names({name: ("3", "number")}, "mm").value(formula, "number")
    assert one == pytest.approx(Names({"other": ("3", "number")}, "mm").value(renamed, "number"))


@given(st.floats(-1e5, 1e5), st.sampled_from(["mm", "in"]))
def test_a_length_is_written_in_its_unit_and_read_back(mm: float, unit: Any) -> None:
    text = length(mm, unit, 9)
    assert evaluate(f"{text} {unit}") == pytest.approx(mm, abs=1e-7)
