"""Limits of tolerance classes and general tolerances, against values read off the standards' own tables."""

from __future__ import annotations

import pytest

from sulvak_core.sheet.fits import grade, limits
from sulvak_core.sheet.general_tolerance import read

# size, class, lower and upper limit deviation in µm: ISO 286-2
CLASSES = [
    (12, "H7", 0, 18),
    (30, "H7", 0, 21),
    (50, "H8", 0, 39),
    (100, "H11", 0, 220),
    (25, "F8", 20, 53),
    (40, "G7", 9, 34),
    (80, "E9", 60, 134),
    (10, "D10", 40, 98),
    (30, "K7", -15, 6),
    (10, "K7", -10, 5),
    (30, "M7", -21, 0),
    (30, "N7", -28, -7),
    (8, "N9", -36, 0),
    (100, "N9", -87, 0),
    (30, "P7", -35, -14),
    (6, "P9", -42, -12),
    (30, "R7", -41, -20),
    (30, "S7", -48, -27),
    (3, "K7", -10, 0),
    (3, "P7", -16, -6),
    (40, "JS7", -12.5, 12.5),
    (280, "M6", -41, -9),
    (8, "g6", -14, -5),
    (20, "f7", -41, -20),
    (25, "h6", -13, 0),
    (50, "d9", -142, -80),
    (60, "e8", -106, -60),
    (25, "k6", 2, 15),
    (25, "k8", 0, 33),
    (30, "m6", 8, 21),
    (30, "n6", 15, 28),
    (30, "p6", 22, 35),
    (60, "s6", 53, 72),
    (70, "s6", 59, 78),
    (60, "r6", 41, 60),
    (130, "r6", 63, 88),
]


@pytest.mark.parametrize(("size", "name", "lower", "upper"), CLASSES)
def test_limits_of_classes(size: float, name: str, lower: float, upper: float) -> None:
    letters = name.rstrip("0123456789")
    found = limits(size, letters, int(name[len(letters) :]))
    assert found == (pytest.approx(lower / 1000), pytest.approx(upper / 1000))


@pytest.mark.parametrize("number", range(2, 18))
def test_grades_grow_with_number_and_size(number: int) -> None:
    sizes = [2, 5, 8, 15, 25, 40, 70, 100, 150, 200, 300, 350, 450]
    at = [grade(s, number) or 0 for s in sizes]
    finer = [grade(s, number - 1) or 0 for s in sizes]
    assert at == sorted(at)
    assert all(a > f for a, f in zip(at, finer, strict=True))


@pytest.mark.parametrize(
    ("size", "letters", "number"), [(600, "H", 7), (12, "Q", 7), (12, "H", 19), (0, "H", 7), (12, "K", 9)]
)
def test_what_is_not_in_the_tables_has_no_limits(size: float, letters: str, number: int) -> None:
    assert limits(size, letters, number) is None


GENERAL = [
    ("ISO 2768-m", 20, "linear", 0, 0.2),
    ("ISO 2768 - m", 6, "linear", 0, 0.1),
    ("GENERAL TOLERANCES ISO 2768-mK", 120, "linear", 0, 0.3),
    ("ISO 2768-1-f", 121, "linear", 0, 0.2),
    ("ISO 2768-c", 500, "linear", 0, 2),
    ("ISO 2768-v", 2, "linear", 0, None),
    ("ISO 2768-m", 0.3, "linear", 1, None),
    ("ISO 2768-m", 3, "broken", 0, 0.2),
    ("ISO 2768-m", 5, "broken", 0, 0.5),
    ("ISO 2768-c", 20, "broken", 0, 2),
    ("ISO 2768-m", 30, "angle", 0, 1),
    (".XX ±.01 .XXX ±.005 ANGLES ±1°", 25.4, "linear", 2, 0.254),
    (".XX ±.01 .XXX ±.005 ANGLES ±1°", 25.4, "linear", 3, 0.127),
    (".XX ±.01 .XXX ±.005 ANGLES ±1°", 25.4, "linear", 1, None),
    (".XX ±.01 .XXX ±.005 ANGLES ±1°", 30, "angle", 0, 1),
    ("X ±.5 .X +/-.1", 25.4, "linear", 0, 12.7),
    ("X ±.5 .X +/-.1", 25.4, "linear", 1, 2.54),
]


@pytest.mark.parametrize(("text", "size", "sort", "decimals", "by"), GENERAL)
def test_general_tolerances(text: str, size: float, sort: str, decimals: int, by: float | None) -> None:
    tolerance = read(text, "in")
    assert tolerance is not None
    found = tolerance.of(size, sort, decimals)  # type: ignore[arg-type]
    assert found == (None if by is None else pytest.approx(by))


def test_an_angle_of_long_legs_is_held_closer() -> None:
    tolerance = read("ISO 2768-m")
    assert tolerance is not None
    assert [tolerance.of(30, "angle", 0, leg) for leg in (5, 40, 100, 300, 900)] == [1, 1 / 2, 1 / 3, 1 / 6, 1 / 12]


@pytest.mark.parametrize("text", ["", "BREAK EDGES", "ISO 2768", "SCALE 1:2", "48 ±0.1", "ISO 2768-x"])
def test_other_notes_state_none(text: str) -> None:
    assert read(text) is None
