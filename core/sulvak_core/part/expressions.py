"""What people type into a number field, read by a grammar of our own; nothing is ever run as code.

Grammar (blank space is free)::

    sum      = product { ("+" | "-") product }
    product  = power { ("*" | "×" | "/") power }
    power    = factor [ "^" power ]
    factor   = ("+" | "-") factor | measure
    measure  = ( fraction | number | name | call | "(" sum ")" ) [ unit ]
    fraction = whole whole "/" whole            1 1/2   (a mixed number)
             | whole "/" whole (before a unit)  3/4 in
    unit     = mm cm m in ft " ' ° deg rad

A bare number takes the unit of the field it stands in, also beside a measured one
(``35 + 1 in`` in a millimetre field is 60.4 mm).
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from .errors import ExpressionError
from .units import DEGREES_PER, MM_PER, LengthUnit

Kind = Literal["length", "angle", "number"]

MAX_TEXT = 200
MAX_DEPTH = 40

_TOKEN = re.compile(
    r"(?P<space>\s+)|(?P<number>(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)"
    r"|(?P<name>[^\W\d]\w*)|(?P<sign>[-+*/^()\"'°×·−;″′⌀Ø])"
)
_UNITS = {'"': "in", "″": "in", "'": "ft", "′": "ft", "°": "deg"}
_NAME = re.compile(r"[^\W\d]\w*\Z")


@dataclass(frozen=True)
class Quantity:
    """A value with its dimension: ``value`` in mm^length · deg^angle; ``bare`` means no unit was given."""

    value: float
    length: int = 0
    angle: int = 0

    @property
    def bare(self) -> bool:
        return self.length == 0 and self.angle == 0

    def of(self, angle: int = 0) -> float:
        """The value of a plain number, or of an angle where ``angle`` is 1; ValueError for anything else."""
        if self.length or self.angle not in (0, angle):
            raise ValueError("another dimension")
        return self.value


@dataclass(frozen=True)
class Token:
    kind: str
    text: str
    start: int
    end: int


def _turn(f: Callable[[float], float]) -> Callable[[Quantity], Quantity]:
    """A function of an angle (a plain number is in degrees)."""
    return lambda q: Quantity(f(math.radians(q.of(angle=1))))


def _back(f: Callable[[float], float]) -> Callable[[Quantity], Quantity]:
    """A function that gives an angle of a plain number."""
    return lambda q: Quantity(math.degrees(f(q.of())), 0, 1)


def _root(q: Quantity) -> Quantity:
    if q.length % 2 or q.angle % 2:
        raise ValueError("a root of an area, or of a plain number")
    return Quantity(math.sqrt(q.value), q.length // 2, q.angle // 2)


_FUNCTIONS: dict[str, Callable[[Quantity], Quantity]] = {
    "sqrt": _root,
    "abs": lambda q: Quantity(abs(q.value), q.length, q.angle),
    "sin": _turn(math.sin),
    "cos": _turn(math.cos),
    "tan": _turn(math.tan),
    "asin": _back(math.asin),
    "acos": _back(math.acos),
    "atan": _back(math.atan),
}
_TAKES = {
    "sqrt": "an area or a plain number that is not below zero",
    "sin": "an angle",
    "cos": "an angle",
    "tan": "an angle",
}
_TAKES |= {"asin": "a plain number from -1 to 1", "acos": "a plain number from -1 to 1", "atan": "a plain number"}
RESERVED = set(_FUNCTIONS) | {"pi"} | set(MM_PER) | set(DEGREES_PER)


def tokens(text: str) -> list[Token]:
    """``text`` cut into tokens; raises ExpressionError at the first character that has no meaning."""
    if len(text) > MAX_TEXT:
        raise ExpressionError(f"This is longer than {MAX_TEXT} characters; shorten it.", MAX_TEXT, len(text))
    found: list[Token] = []
    at = 0
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise ExpressionError(f"“{text[at]}” has no meaning here; take it out.", at, at + 1)
        if match.lastgroup != "space":
            found.append(Token(str(match.lastgroup), match.group(), at, match.end()))
        at = match.end()
    return found


def names_in(text: str) -> set[str]:
    """Names of other values that ``text`` uses."""
    return {t.text for t in tokens(text) if t.kind == "name" and t.text not in RESERVED}


def rename_in(text: str, old: str, new: str) -> str:
    """``text`` with the name ``old`` replaced by ``new``."""
    for token in reversed(tokens(text)):
        if token.kind == "name" and token.text == old:
            text = text[: token.start] + new + text[token.end :]
    return text


def check_name(name: str) -> str:
    """``name`` if it can name a value; raises ExpressionError otherwise."""
    if not _NAME.match(name) or len(name) > 40:
        raise ExpressionError(f"“{name[:40]}” cannot be a name; use letters, digits and _.", 0, len(name))
    if name in RESERVED:
        raise ExpressionError(f"“{name}” already means something in a formula; choose another name.", 0, len(name))
    return name


class _Reader:
    def __init__(self, text: str, kind: Kind, unit: LengthUnit, look_up: Callable[[str], Quantity]) -> None:
        self.text, self.kind, self.unit, self.look_up = text, kind, unit, look_up
        self.list = tokens(text)
        self.at = 0
        self.depth = 0
        self.settled_at: list[tuple[int, int]] = []  # where bare numbers took the unit of the field

    def error(self, sentence: str, token: Token | None = None) -> ExpressionError:
        if token is None:
            return ExpressionError(sentence, len(self.text), len(self.text))
        return ExpressionError(sentence, token.start, token.end)

    def peek(self, ahead: int = 0) -> Token | None:
        return self.list[self.at + ahead] if self.at + ahead < len(self.list) else None

    def take(self, *texts: str) -> Token | None:
        token = self.peek()
        if token is not None and token.text in texts:
            self.at += 1
            return token
        return None

    def read(self) -> Quantity:
        if not self.list:
            raise self.error("Nothing is typed here yet; type a value.")
        result = self.sum()
        rest = self.peek()
        if rest is not None:
            raise self.error(f"“{rest.text}” is not expected here.", rest)
        return result

    def whole(self) -> Quantity:
        """All of the text, a bare result taken in the unit of the field."""
        return self.settled(self.read(), 0)

    def settled(self, q: Quantity, first: int, last: int | None = None) -> Quantity:
        """A bare number taken in the unit of the field; it was read from the tokens ``first`` up to ``last``."""
        if not q.bare:
            return q
        if self.kind == "length":
            end = self.at if last is None else last
            self.settled_at.append((self.list[first].start, self.list[end - 1].end))
            return Quantity(q.value * MM_PER[self.unit], 1)
        if self.kind == "angle":
            return Quantity(q.value, 0, 1)
        return q

    def sum(self) -> Quantity:
        self.depth += 1
        if self.depth > MAX_DEPTH:
            raise self.error("Too many brackets inside one another.", self.peek())
        first = self.at
        left = self.product()
        while token := self.take("+", "-", "−"):
            second = self.at
            right = self.product()
            if left.bare != right.bare:
                left, right = self.settled(left, first, second - 1), self.settled(right, second)
            if (left.length, left.angle) != (right.length, right.angle):
                raise self.error("A length and an angle (or an area) cannot be added.", token)
            value = left.value + right.value if token.text == "+" else left.value - right.value
            left = Quantity(value, left.length, left.angle)
        self.depth -= 1
        return left

    def product(self) -> Quantity:
        left = self.power()
        while token := self.take("*", "×", "·", "/"):
            right = self.power()
            if token.text != "/":
                left = Quantity(left.value * right.value, left.length + right.length, left.angle + right.angle)
            elif right.value == 0:
                raise self.error("This divides by zero.", token)
            else:
                left = Quantity(left.value / right.value, left.length - right.length, left.angle - right.angle)
        return left

    def power(self) -> Quantity:
        base = self.factor()
        token = self.take("^")
        if token is None:
            return base
        exponent = self.power()
        if not exponent.bare or (not base.bare and exponent.value != int(exponent.value)):
            raise self.error("A power must be a plain number, and a whole one for a measured value.", token)
        whole = int(exponent.value) if not base.bare else 0
        try:
            value = base.value**exponent.value
        except (OverflowError, ZeroDivisionError):
            raise self.error("This power is too large to work out.", token) from None
        if isinstance(value, complex):
            raise self.error("A root of a negative number has no length.", token)
        return Quantity(value, base.length * whole, base.angle * whole)

    def factor(self) -> Quantity:
        if self.take("-", "−"):
            q = self.factor()
            return Quantity(-q.value, q.length, q.angle)
        if self.take("+"):
            return self.factor()
        return self.measure()

    def measure(self) -> Quantity:
        token = self.peek()
        if token is None:
            raise self.error("Something is missing at the end.")
        self.at += 1
        if token.kind == "number":
            q = Quantity(self.number(token))
        elif token.text == "(":
            q = self.sum()
            if not self.take(")"):
                raise self.error("A bracket is not closed.", token)
        elif token.kind == "name":
            q = self.named(token)
        else:
            raise self.error(f"“{token.text}” is not expected here; a value is.", token)
        return self.with_unit(q)

    def number(self, token: Token) -> float:
        value = float(token.text.replace(",", "."))
        if not math.isfinite(value):
            raise self.error("This number is too large.", token)
        if not token.text.isdigit():
            return value
        one, two, three = self.peek(), self.peek(1), self.peek(2)
        mixed = one and two and three and one.text.isdigit() and two.text == "/" and three.text.isdigit()
        if mixed and one and three and int(three.text):
            self.at += 3
            return value + int(one.text) / int(three.text)
        fraction = one and two and one.text == "/" and two.text.isdigit() and three and self.unit_of(three)
        if fraction and two and int(two.text):
            self.at += 2
            return value / int(two.text)
        return value

    def unit_of(self, token: Token) -> str | None:
        unit = _UNITS.get(token.text, token.text)
        return unit if unit in MM_PER or unit in DEGREES_PER else None

    def with_unit(self, q: Quantity) -> Quantity:
        token = self.peek()
        unit = self.unit_of(token) if token else None
        if token is None or unit is None:
            return q
        if not q.bare:
            raise self.error("This already has a unit; take one of the two out.", token)
        self.at += 1
        if unit in MM_PER:
            q = Quantity(q.value * MM_PER[unit], 1)
        else:
            q = Quantity(q.value * DEGREES_PER[unit], 0, 1)
        return self.with_unit(q)  # a second unit is refused there

    def named(self, token: Token) -> Quantity:
        if token.text == "pi":
            return Quantity(math.pi)
        if token.text in _FUNCTIONS:
            if not self.take("("):
                raise self.error(f"“{token.text}” needs its value in brackets: {token.text}(…).", token)
            inner = self.sum()
            if not self.take(")"):
                raise self.error("A bracket is not closed.", token)
            try:
                return _FUNCTIONS[token.text](inner)
            except ValueError:
                raise self.error(f"{token.text} takes {_TAKES[token.text]}; this is something else.", token) from None
        if self.unit_of(token):
            raise self.error(f"“{token.text}” is a unit; put a number before it.", token)
        try:
            return self.look_up(token.text)
        except KeyError:
            raise self.error(f"There is no value named “{token.text}”.", token) from None


def _no_names(name: str) -> Quantity:
    raise KeyError(name)


def evaluate(
    text: str,
    kind: Kind = "length",
    unit: LengthUnit = "mm",
    look_up: Callable[[str], Quantity] = _no_names,
) -> float:
    """The value of ``text``: mm for a length, degrees for an angle, plain for a number.

    Raises ExpressionError with the place and a sentence when it cannot be read.
    """
    q = _Reader(text, kind, unit, look_up).whole()
    wanted = {"length": (1, 0), "angle": (0, 1), "number": (0, 0)}[kind]
    if (q.length, q.angle) != wanted:
        name = {"length": "a length", "angle": "an angle", "number": "a plain number"}[kind]
        raise ExpressionError(f"{name.capitalize()} is wanted here, and this is something else.", 0, len(text))
    if not math.isfinite(q.value) or abs(q.value) > 1e9:
        raise ExpressionError("This value is too large to draw.", 0, len(text))
    return q.value


def with_unit_said(text: str, unit: LengthUnit, look_up: Callable[[str], Quantity] = _no_names) -> str:
    """A length's text with the unit at every bare number that took it from its field, so that it reads the same in a
    field of any unit. Raises ExpressionError when it cannot be read."""
    reader = _Reader(text, "length", unit, look_up)
    reader.whole()
    for start, end in sorted(reader.settled_at, reverse=True):
        said = text[start:end]
        alone = len(tokens(said)) == 1
        text = f"{text[:start]}{said if alone else f'({said})'} {unit}{text[end:]}"
    return text


class Names:
    """Named values, worked out on demand; a cycle is refused with its chain.

    ``texts`` maps a name to (expression, kind, unit of the document).
    """

    def __init__(self, texts: Mapping[str, tuple[str, Kind]], unit: LengthUnit) -> None:
        self.texts, self.unit = dict(texts), unit
        self._done: dict[str, Quantity] = {}
        self._open: list[str] = []

    def __call__(self, name: str) -> Quantity:
        if name in self._done:
            return self._done[name]
        if name in self._open:
            chain = " → ".join([*self._open[self._open.index(name) :], name])
            raise ExpressionError(f"This goes round in a circle: {chain}.", 0, 0)
        text, kind = self.texts[name]
        self._open.append(name)
        try:
            reader = _Reader(text, kind, self.unit, self)
            self._done[name] = reader.whole() if kind != "number" else reader.read()
        finally:
            self._open.pop()
        return self._done[name]

    def value(self, text: str, kind: Kind) -> float:
        """``text`` evaluated with these names, in mm, degrees or plain."""
        plain = _without_names(text, kind, self.unit)
        return evaluate(text, kind, self.unit, self) if plain is None else plain


@lru_cache(maxsize=20_000)
def _without_names(text: str, kind: Kind, unit: LengthUnit) -> float | None:
    """The value of a text that speaks of no named value, None for any other."""
    try:
        return evaluate(text, kind, unit)
    except ExpressionError:
        return None
