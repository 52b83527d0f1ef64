"""Limits of the tolerance classes of ISO 286-1 (``12 H7``, ``8 g6``), for sizes up to 500 mm.

Source: the tables of standard tolerances and of fundamental deviations in ISO 286-1:2010, in µm. The classes from d to
s and from D to S are here, and JS; the letters a to c, those beyond s, and J, whose steps are finer or without rule,
are not.
"""

from __future__ import annotations

from bisect import bisect_left

# sizes over the one before, up to and including
_UP_TO = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
_FIRST_GRADE = 1
_GRADES = (  # IT1 … IT18
    (0.8, 1, 1, 1.2, 1.5, 1.5, 2, 2.5, 3.5, 4.5, 6, 7, 8),
    (1.2, 1.5, 1.5, 2, 2.5, 2.5, 3, 4, 5, 7, 8, 9, 10),
    (2, 2.5, 2.5, 3, 4, 4, 5, 6, 8, 10, 12, 13, 15),
    (3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20),
    (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
    (100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630),
    (140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970),
    (250, 300, 360, 430, 520, 620, 740, 870, 1000, 1150, 1300, 1400, 1550),
    (400, 480, 580, 700, 840, 1000, 1200, 1400, 1600, 1850, 2100, 2300, 2500),
    (600, 750, 900, 1100, 1300, 1600, 1900, 2200, 2500, 2900, 3200, 3600, 4000),
    (1000, 1200, 1500, 1800, 2100, 2500, 3000, 3500, 4000, 4600, 5200, 5700, 6300),
    (1400, 1800, 2200, 2700, 3300, 3900, 4600, 5400, 6300, 7200, 8100, 8900, 9700),
)
# a shaft's upper deviation: below its size
_BELOW = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
# a shaft's lower deviation: above its size
_ABOVE = {
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
_K = (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5)  # grades 4 to 7; 0 in the others
# r and s have finer steps above 50 mm
_FINE_UP_TO = (3, 6, 10, 18, 30, 50, 65, 80, 100, 120, 140, 160, 180, 200, 225, 250, 280, 315, 355, 400, 450, 500)
_FINE = {
    "r": (10, 15, 19, 23, 28, 34, 41, 43, 51, 54, 63, 65, 68, 77, 80, 84, 94, 98, 108, 114, 126, 132),
    "s": (14, 19, 23, 28, 35, 43, 53, 59, 71, 79, 92, 100, 108, 122, 130, 140, 158, 170, 190, 208, 232, 252),
}


def grade(size: float, number: int) -> float | None:
    """The standard tolerance IT\\ ``number`` of a ``size`` in mm, in mm; None outside of the table."""
    if not 0 < size <= _UP_TO[-1] or not 1 <= number <= len(_GRADES):
        return None
    return _GRADES[number - 1][bisect_left(_UP_TO, size)] / 1000


def limits(size: float, letters: str, number: int) -> tuple[float, float] | None:
    """Lower and upper deviation in mm of a hole (capital ``letters``) or shaft of nominal ``size`` in mm.

    None for a class or size that is not in the tables here.
    """
    tolerance = grade(size, number)
    if tolerance is None:
        return None
    shaft, hole = letters.lower(), letters.isupper()
    if shaft == "js" and letters in ("js", "JS"):
        return -tolerance / 2, tolerance / 2
    if shaft in _BELOW and len(letters) == 1:
        gap = _BELOW[shaft][bisect_left(_UP_TO, size)] / 1000
        return (gap, gap + tolerance) if hole else (-gap - tolerance, -gap)
    over = _over(size, shaft, number, hole)
    if over is None or len(letters) != 1:
        return None
    if not hole:
        return over, over + tolerance
    upper = _hole_upper(size, shaft, number, over)
    return None if upper is None else (upper - tolerance, upper)


def _over(size: float, shaft: str, number: int, hole: bool) -> float | None:
    """The lower deviation of a shaft whose letter lies above the size, in mm."""
    if shaft == "k":
        return _K[bisect_left(_UP_TO, size)] / 1000 if hole or 4 <= number <= 7 else 0.0
    if shaft in _ABOVE:
        return _ABOVE[shaft][bisect_left(_UP_TO, size)] / 1000
    if shaft in _FINE:
        return _FINE[shaft][bisect_left(_FINE_UP_TO, size)] / 1000
    return None


def _hole_upper(size: float, shaft: str, number: int, over: float) -> float | None:
    """A hole's upper deviation, by the shaft's lower one: mirrored, and for the finer grades moved by the difference
    of two grades, so that a fit stays the same when hole and shaft change places."""
    if number < 3 or (shaft == "k" and number > 8):
        return None
    if shaft == "n" and number > 8:
        return -over if size <= 3 else 0.0
    finer = number <= (8 if shaft in "kmn" else 7)
    if not finer or size <= 3:
        return -over
    step = grade(size, number), grade(size, number - 1)
    assert step[0] is not None and step[1] is not None
    if shaft == "m" and number == 6 and 250 < size <= 315:
        return -0.009  # the standard's own exception
    return -over + step[0] - step[1]
