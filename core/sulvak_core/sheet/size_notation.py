"""One size in a callout: its sign, its value, and how far it may lie off."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, Literal, TypeVar

from ..part.expressions import evaluate
from ..part.threads import Thread
from ..part.units import LengthUnit
from .requirement import Kind
from .spelling import Word

T = TypeVar("T")

ROUND: dict[str, Kind] = {"⌀": "diameter", "S⌀": "diameter", "R": "radius", "SR": "radius", "CR": "radius"}
HEADS = {*ROUND, "□", "C", "t"}


class Unreadable(Exception):
    """This is not how a size is written."""


class SizeReader:
    """Reads a size from the words of a callout, from left to right, into the fields of a Requirement."""

    def __init__(self, found: list[Word], unit: LengthUnit, thread: Thread | None) -> None:
        self.words, self.unit, self.thread = found, unit, thread
        self.i = 0
        self.got: dict[str, Any] = {}
        self.kind: Kind | Literal[""] = ""
        self.own = ""  # the unit written with the main size

    # words

    def peek(self, ahead: int = 0) -> str:
        return self.words[self.i + ahead].kind if self.i + ahead < len(self.words) else ""

    def take(self, *kinds: str) -> Word | None:
        if self.peek() in kinds and kinds:
            self.i += 1
            return self.words[self.i - 1]
        return None

    def need(self, kind: str) -> Word:
        word = self.take(kind)
        if word is None:
            raise Unreadable
        return word

    def figure(self, text: str, own: str = "") -> float:
        return evaluate(f"{text} {own or self.own}".strip(), "length", self.unit)

    def once(self, field: str, value: Any) -> None:
        """A field told twice is no size anybody can mean."""
        if field in self.got:
            raise Unreadable
        self.got[field] = value

    def size(self) -> None:
        """The main size: its sign, value, unit, limits."""
        sign = self.take(*HEADS)
        self._sign(sign.kind if sign else "")
        self.bound()
        value = self.need("number")
        self.got["decimals"] = len(re.split("[.,]", value.text)[1]) if re.search("[.,]", value.text) else 0
        unit = self.take("mm", "in")
        self.own = unit.kind if unit else ""
        if self.take("°"):
            self._degrees(value.text)
            return
        self.once("nominal", value.text)
        self.limits(value.text)
        unit = self.take("mm", "in")
        if unit:
            if self.own:
                raise Unreadable
            self.own = unit.kind
        tolerance = self.take("class")
        if tolerance:
            self.once("fit", tolerance.text)

    def _sign(self, sign: str) -> None:
        if not sign:
            return
        if self.kind and not (self.kind == "chamfer" and sign == "C"):
            raise Unreadable
        self.kind = ROUND.get(sign) or ("chamfer" if sign == "C" else "linear")
        if sign in ("SR", "S⌀"):
            self.once("spherical", True)
        if sign == "□":
            self.once("square", True)

    def bound(self) -> None:
        bound = self.take("MAX", "MIN")
        if bound:
            self.once("bound", bound.kind.lower())

    def _degrees(self, text: str) -> None:
        """An angle: whole or decimal degrees, minutes, seconds; and how far it may lie off."""
        if self.own or self.kind not in ("", "chamfer"):
            raise Unreadable
        value = self._turned(text)
        if self.take("X"):  # 45° × 2
            self.kind = "chamfer"
            self.once("angle", value)
            self.size()
            return
        self.kind = "angle"
        self.once("nominal", value)
        off = [k * v for k, v in self.deviations(lambda: self._turned(self.need("number").text))]
        if off:
            self.limit(min(off), max(off), len(off))

    def _turned(self, text: str) -> float:
        """Degrees of a number and the minutes and seconds behind it, or of minutes alone."""
        value = float(text.replace(",", "."))
        self.take("°")
        if self.peek() == "′":
            self.i += 1
            return value / 60
        if self.peek() == "number" and self.peek(1) == "′":
            value += float(self.words[self.i].text) / 60
            self.i += 2
            if self.peek() == "number" and self.peek(1) == "in":  # the sign of seconds is that of inches
                value += float(self.words[self.i].text) / 3600
                self.i += 2
        return value

    # limits

    def deviations(self, read: Callable[[], T]) -> list[tuple[float, T]]:
        """What stands behind a value with signs: one figure both ways, or an upper and a lower; each by ``read``."""
        if self.take("±"):
            value = read()
            return [(1.0, value), (-1.0, value)]
        found: list[tuple[float, T]] = []
        for _ in range(2):
            between = self.i
            while self.take("/", "line", "COMMA"):
                pass
            sign = self.take("+", "-")
            if not sign and not (self._nought() and self._belongs()):
                self.i = between
                break
            found.append((-1.0 if sign and sign.kind == "-" else 1.0, read()))
        return found

    def _nought(self) -> bool:
        return self.peek() == "number" and re.fullmatch(r"[0.,]+", self.words[self.i].text) is not None

    def _belongs(self) -> bool:
        """Whether a bare nought here is a limit: another limit stands before or behind it."""
        behind = [w.kind for w in self.words[self.i + 1 : self.i + 3]]
        before = [w.kind for w in self.words[max(0, self.i - 3) : self.i]]
        return any(k in ("+", "-") for k in (*behind, *before))

    def text(self) -> str:
        return self.need("number").text

    def limits(self, value: str) -> None:
        """How far the main size may lie off, as deviations or as two limits; read as texts, for the unit may follow."""
        ahead = 1 if self.peek() in ("/", "-", "line") else 0
        if ahead and self.peek(1) == "number":
            other = self.words[self.i + 1].text
            a, b = evaluate(value, "number"), evaluate(other, "number")
            near = a > 0 and 0.5 < b / a < 2
            if near and not (self.peek() == "line" and not self._both_decimal(value, other)):
                self.i += 2
                self.got["nominal"] = ("limits", value, other)
                return
            if self.peek() == "/":
                raise Unreadable
        off = self.deviations(self.text)
        if off:
            self.got["deviations"] = off

    def _both_decimal(self, one: str, two: str) -> bool:
        return bool(re.search("[.,]", one) and re.search("[.,]", two))

    def limit(self, lower: float, upper: float, told: int) -> None:
        if told == 1:  # the other is nought
            lower, upper = min(lower, 0.0), max(upper, 0.0)
        self.once("lower", lower)
        self.once("upper", upper)
        self.got["toleranced"] = True
