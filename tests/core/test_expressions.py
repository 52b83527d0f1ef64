"""What people type into a field."""

from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import ExpressionError
from sulvak_core.part.expressions import Names, check_name, evaluate, names_in, rename_in, with_unit_said
from sulvak_core.part.units import number
from tests.examples import examples

GOOD = [
    ("48", 48), ("1.25 in", 31.75), ('1 1/4"', 31.75), ("3/4", 0.75), ('3/4"', 19.05), ("17/2", 8.5), ("2*3.1", 6.2),
    ("35 + 1 in", 60.4), ("(35+1) in", 914.4), ("-(3+4)*2", -14), ("2^3", 8), ("2 × 3", 6), ("10 − 4", 6), ("0,5", 0.5),
    ("sqrt(2)*10", 14.142135623730951), ("10*sin(30°)", 5), ("sin(30)*10", 5), ("1 ft", 304.8), ("2 cm", 20),
    ("110 - 18 - 18", 74), ("abs(-3 mm)", 3), (".5", 0.5), ("1e1", 10), ("6'", 1828.8), ("sqrt((1 in)*(1 in))", 25.4), ("sqrt(9 mm * 4 mm)", 6), ("abs(-30°)/1° * 1 mm", 30), ("12 mm / 4", 3), ("2 mm * 3 mm / 1 mm", 6),
]  # fmt: skip
BAD = [
    ("", "Nothing"), ("3 +", "missing"), ("(3", "bracket"), ("3 mm mm", "already has a unit"),
    ("width", "no value named"),    ("30°", "length"), ("2 mm * 3 mm", "length"), ("1/0", "divides by zero"), ("3 $ 4", "no meaning"),
    ("1 mm + 30°", "added"),    ("mm", "is a unit"), ("sin 3", "brackets"), ("9" * 201, "longer"), ("(" * 60 + "1" + ")" * 60, "brackets"),
    ("__import__('os')", "no value named"), ("10^400", "too large"), ("(-1)^0.5", "root"), ("1e999", "too large"),
    ("asin(3)*1 mm", "takes a plain number"),    ("sqrt(2 mm)", "sqrt takes an area"), ("sin(1 in)*1 mm", "sin takes an angle"),
    ("cos(1 mm^2)*1 mm", "cos takes an angle"), ("atan(30°)*1 mm", "atan takes"), ("sqrt(-4)", "not below zero"), ("1e10", "too large"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "value"), GOOD)
def test_good(text: str, value: float) -> None:
    assert evaluate(text) == pytest.approx(value, rel=1e-13)


@pytest.mark.parametrize(("text", "said"), BAD)
def test_bad_is_said_with_its_place(text: str, said: str) -> None:
    with pytest.raises(ExpressionError, match=said) as error:
        evaluate(text)
    assert 0 <= error.value.start <= error.value.end <= max(len(text), 1)


def test_units_of_the_field() -> None:
    assert evaluate("2", "length", "in") == pytest.approx(50.8)
    assert evaluate("45", "angle") == 45
    assert evaluate("0.5 rad", "angle") == pytest.approx(28.6478897565)
    assert evaluate("3/4", "number") == 0.75


def test_named_values_and_cycles() -> None:
    known = Names({"width": ("40", "length"), "half": ("width/2", "length"), "n": ("3", "number")}, "mm")
    assert known.value("half + 1", "length") == 21
    assert known.value("n*half", "length") == 60
    ring = Names({"a": ("b+1", "length"), "b": ("c", "length"), "c": ("a", "length")}, "mm")
    with pytest.raises(ExpressionError, match="a → b → c → a"):
        ring.value("a", "length")


def test_renaming_touches_names_only() -> None:
    assert rename_in("width*2 + width2", "width", "w") == "w*2 + width2"
    assert names_in("width*2 + sin(a) mm") == {"width", "a"}
    for bad in ("2x", "mm", "sin", "a b", "", "a-b"):
        with pytest.raises(ExpressionError):
            check_name(bad)


@given(st.text(max_size=60))
def test_any_text_is_a_value_or_a_sentence(text: str) -> None:
    try:
        assert abs(evaluate(text)) <= 1e9
    except ExpressionError as error:
        assert error.sentence.endswith(".")


@given(st.floats(-1e6, 1e6))
def test_numbers_are_written_as_they_are_read(value: float) -> None:
    assert float(number(value)) == pytest.approx(value, abs=5.1e-5)


# -- the same size in a field of another unit ----------------------------------------------------------------

KNOWN: dict[str, tuple[str, Any]] = {
    "k": ("30 mm", "length"), "w": ("2 in", "length"), "n": ("3", "number"), "lean": ("30", "angle"), "deep": ("k/2", "length")
}  # fmt: skip
plain = st.one_of(st.integers(1, 40).map(str), st.sampled_from(["2.5", "1/2", "1 1/4", "0.125", "n", "2*n", "pi"]))
measured = st.sampled_from(["k", "w", "deep", "5 mm", "1 in", '3/4"', "sqrt(k*w)", "abs(-k)", "tan(lean)*k", "k*n/2"])


@st.composite
def texts(draw: Any, depth: int = 3) -> str:
    """A length as somebody might type it, bare numbers beside measured ones."""
    if depth == 0 or draw(st.booleans()):
        return draw(st.one_of(plain, measured))
    one, two = draw(texts(depth=depth - 1)), draw(texts(depth=depth - 1))
    form = draw(st.sampled_from(["{a} + {b}", "{a}-{b}", "({a} + {b})*2", "{a} + {b} + 3", "-({a})", "({a} - 5)/n"]))
    return form.format(a=one, b=two)


def length_of(text: str, unit: Any) -> float | None:
    try:
        return Names(KNOWN, unit).value(text, "length")
    except ExpressionError:
        return None


@given(texts(), st.sampled_from(["mm", "in"]))
@settings(max_examples=examples(400), deadline=None)
def test_no_size_changes_with_the_unit(text: str, unit: Any) -> None:
    other = "mm" if unit == "in" else "in"
    assume((before := length_of(text, unit)) is not None)
    said = with_unit_said(text, unit, Names(KNOWN, unit))
    assert length_of(said, other) == pytest.approx(before, rel=1e-12, abs=1e-12)
    assert with_unit_said(said, other, Names(KNOWN, other)) == said  # nothing bare is left


@pytest.mark.parametrize(
    ("text", "said"),
    [("5", "5 mm"), ("k+5", "k+5 mm"), ("w-10", "w-10 mm"), ("35 + 1 in", "35 mm + 1 in"), ("3+2+k", "(3+2) mm+k"),
     ("1/2", "(1/2) mm"), ("k", "k"), ("2*(k - 3/4)", "2*(k - (3/4) mm)")],
)  # fmt: skip
def test_the_unit_is_said_at_what_took_it(text: str, said: str) -> None:
    assert with_unit_said(text, "mm", Names(KNOWN, "mm")) == said
