"""Callout text in the notation of ASME Y14.5 / ISO 129-1 read into a Requirement.

What is read, in any usual spelling (``spelling.py``; tests/core/test_spellings.py is the table):

====================== ========================================================================================
sizes                  ``48``, ``⌀8``, ``.25 DIA``, ``R6``, ``CR3``, ``SR10``, ``S⌀12``, ``□20``, ``30°``, ``t3``
counts                 ``3X ⌀3.4``, ``3 × R2``, ``⌀5 4 PLACES``, ``⌀5 (3 HOLES)``, ``R3 TYP``
limits                 ``±0.1``, ``+0.1/-0.05``, ``+0.1/0``, ``-0.1``, ``10.2/10.0``, ``12 H7``, ``MAX``, ``MIN``
said, not asked        ``(52)``, ``52 REF``; exact: ``[50]``, ``50 BASIC``; in the other unit: ``25.4 [1.000]``
holes                  ``THRU``, ``↧ 5``, ``⌴ ⌀14 ↧ 5``, ``⌵ ⌀9 × 90°``, ``SF ⌀12``, ``EQ SP ON ⌀60 BC``
threads                ``4X M5 × 0.8-6H ↧ 12``, ``1/4-20 UNC-2B THRU``, with their drill: ``⌀4.2 ↧ 16, M5 ↧ 12``
chamfers               ``2×45°``, ``45° × 2``, ``C2``, ``2 × 1``, ``2 CHAM``
rows                   ``5 × 12 (=60)``: five spaces of 12
====================== ========================================================================================

What cannot be read whole is a note.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from ..part.errors import ExpressionError
from ..part.expressions import evaluate
from ..part.units import MM_PER, LengthUnit, number
from . import fits
from .requirement import Kind, Requirement
from .size_notation import HEADS, ROUND, SizeReader, Unreadable
from .spelling import Word, words
from .thread_notation import thread_in

FARTHEST_LEGS = 5  # a chamfer's two legs differ by less; 3 × 20 is three of 20


@lru_cache(maxsize=4096)
def parse(text: str, unit: LengthUnit = "mm") -> Requirement:
    """The requirement a callout's text makes; kind “note” when it cannot be read as a size."""
    plain = text.strip()
    more: dict[str, Any] = {}
    if _wrapped(plain, "()"):
        plain, more["reference"] = plain[1:-1].strip(), True
    if _wrapped(plain, "[]"):
        plain, more["basic"] = plain[1:-1].strip(), True
    plain, thread = thread_in(plain)
    found = words(plain)
    if not found:
        return Requirement(kind="note")
    try:
        return _Reader(found, unit, thread).callout(more)
    except (Unreadable, ExpressionError, ValueError):
        return Requirement(kind="note")


def _wrapped(text: str, pair: str) -> bool:
    """Whether the brackets ``pair`` go round all of it: not ``(3) + (4)``."""
    return len(text) > 2 and text[0] == pair[0] and text[-1] == pair[1] and not any(c in text[1:-1] for c in pair)


_IDLE = ("line", "COMMA", "NOISE", "TAP", "SIDES")  # said, and nothing to measure
_FIGURES = {"number", "+", "-", "/", "±", "line", "COMMA", "mm", "in", "⌀", "R", "°"}
_FLAGS = {"THRU": "through", "TYP": "typical", "REF": "reference", "BASIC": "basic", "EQSP": "equally_spaced"}


class _Reader(SizeReader):
    """Reads the words of one callout from left to right into the fields of a Requirement."""

    # parts of a callout

    def callout(self, more: dict[str, Any]) -> Requirement:
        self.count()
        while self.take("CHAM", "NOISE", "TAP", "THICK"):
            if self.words[self.i - 1].kind == "CHAM":
                self.kind = "chamfer"
        if self.take("("):
            self.once("reference", True)
            self.size()
            self.need(")")
        elif self.peek() != "THREAD":
            self.take("↧")
            self.size()
        while self.i < len(self.words):
            self.tail()
        return self.requirement(more)

    def count(self) -> None:
        """``3X`` before a size; and what looks like it: the legs of a chamfer, a row of spaces."""
        if self.peek() != "number" or self.peek(1) != "X" or not self.words[0].text.isdigit():
            return
        times, after = self.words[1], self.peek(2)
        if after == "number":
            counted = times.tight and times.loose
            row = self._row()
            if not counted and not row and not self._apart():
                return
        elif after not in (*HEADS, "(", "[", "THREAD", "↧", "⌴", "⌵", "SF", "CHAM", "NOISE"):
            return
        self.once("count", int(self.words[0].text))
        self.i += 2

    def _row(self) -> bool:
        return any(a.kind == "(" and b.kind == "=" for a, b in zip(self.words, self.words[1:], strict=False))

    def _apart(self) -> bool:
        """Whether the two numbers are too different to be a chamfer's legs."""
        if any(w.kind in ("°", "CHAM") for w in self.words):
            return False
        one, two = (evaluate(self.words[k].text, "number") for k in (0, 2))
        return one >= 2 and two >= FARTHEST_LEGS * one

    # what follows the size

    def tail(self) -> None:
        kind = self.peek()
        if kind in _IDLE:
            self.i += 1
        elif kind in _FLAGS:
            self.i += 1
            self.once(_FLAGS[kind], True)
        elif kind in ("MAX", "MIN"):
            self.bound()
        elif kind == "↧":
            self.i += 1
            self._deep(self.need("number").text)
        elif kind in ("⌴", "SF"):
            self._bore("bore" if kind == "⌴" else "spot")
        elif kind == "⌵":
            self._sink()
        elif kind == "X":
            self._times()
        elif kind == "THREAD":
            self._threaded()
        elif kind in ("⌀", "R", "□", "CHAM", "THICK"):
            self._behind(kind)
        elif kind == "number":
            self._number()
        elif kind in ("ON", "BC"):
            self._circle()
        elif kind in ("(", "["):
            self._bracket(kind, ")" if kind == "(" else "]")
        else:
            raise Unreadable

    def _unit(self) -> str:
        unit = self.take("mm", "in")
        return unit.kind if unit else ""

    def _deep(self, text: str) -> None:
        depth = self.figure(text, self._unit())
        if self.deviations(self.text):
            self.take("mm", "in")
        field = "depth" if "depth" not in self.got or "thread" not in self.got else "thread_depth"
        self.once(field, depth)

    def _bore(self, field: str) -> None:
        self.i += 1
        self.take("⌀")
        wide = self.need("number").text
        self.once(field, self.figure(wide, self._unit()))
        self.deviations(self.text)
        self.take("line", "COMMA", "X")
        if self.take("↧"):
            deep = self.need("number").text
        elif self.peek() == "number" and self.peek(1) == "↧":
            deep = self.need("number").text
            self.i += 1
        elif field == "spot":
            return
        else:
            raise Unreadable
        self.once(f"{field}_depth", self.figure(deep, self._unit()))
        self.deviations(self.text)

    def _sink(self) -> None:
        self.i += 1
        if self.peek() == "number" and self.peek(1) == "°":  # ⌵ 90° × ⌀9
            angle = float(self.need("number").text.replace(",", "."))
            self.need("°")
            self.take("X", "COMMA", "line")
            self.take("⌀")
            self.once("sink", self.figure(self.need("number").text, self._unit()))
        else:
            self.take("⌀")
            self.once("sink", self.figure(self.need("number").text, self._unit()))
            self.deviations(self.text)
            if not self.take("X", "COMMA", "line") and self.peek() != "number":
                raise Unreadable
            angle = float(self.need("number").text.replace(",", "."))
            self.need("°")
        self.once("sink_angle", angle)

    def _times(self) -> None:
        """``× 45°``: a chamfer; ``× 1``: its other leg; ``× 5 DEEP``: a hole's depth."""
        self.i += 1
        text = self.need("number").text
        unit = self._unit()
        if self.take("↧"):
            self._deep(text)
            return
        if self.take("°"):
            if self.kind not in ("", "chamfer"):
                raise Unreadable
            self.kind = "chamfer"
            self.once("angle", float(text.replace(",", ".")))
            return
        if self.kind not in ("", "chamfer"):
            raise Unreadable
        self.kind = "chamfer"
        self.once("leg", self.figure(text, unit))

    def _threaded(self) -> None:
        assert self.thread is not None
        self.i += 1
        drilled = "nominal" in self.got
        if drilled:  # ⌀4.2 ↧ 16, M5 ↧ 12
            if self.kind != "diameter":
                raise Unreadable
            self.once("drill", self.figure(str(self.got.pop("nominal"))))
            if "depth" in self.got:
                self.once("drill_depth", self.got.pop("depth"))
            self.got.pop("deviations", None)
        elif self.kind:
            raise Unreadable
        self.kind = "thread"
        self.once("nominal", self.thread.diameter)
        self.once("thread", self.thread.name)

    def _behind(self, kind: str) -> None:
        """A sign behind its size: ``.25 DIA``, ``6 R``, ``20 SQ``, ``2 CHAM``, ``3 THK``."""
        self.i += 1
        if self.kind == "chamfer" and kind == "CHAM":
            return
        if self.kind or "nominal" not in self.got:
            raise Unreadable
        self.kind = ROUND.get(kind) or ("chamfer" if kind == "CHAM" else "linear")
        if kind == "□":
            self.once("square", True)

    def _number(self) -> None:
        """``4 PLACES``, ``60 BC``, ``5 DEEP``, ``2X`` behind the size."""
        text = self.need("number").text
        if self.take("PLACES", "X"):
            if not text.isdigit():
                raise Unreadable
            self.once("count", int(text))
        elif self.take("↧"):
            self._deep(text)
        elif self.take("BC"):
            self.once("circle", self.figure(text))
        else:
            raise Unreadable

    def _circle(self) -> None:
        self.take("ON")
        before = self.take("BC")
        self.take("⌀")
        self.once("circle", self.figure(self.need("number").text, self._unit()))
        self.take("⌀")
        if not before:
            self.need("BC")

    def _bracket(self, opening: str, closing: str) -> None:
        """In brackets behind a size: the same in the other unit, a class's limits, a row's total, a count."""
        self.need(opening)
        inside: list[Word] = []
        while not self.take(closing):
            if self.i >= len(self.words):
                raise Unreadable
            inside.append(self.words[self.i])
            self.i += 1
        kinds = [w.kind for w in inside]
        if kinds == ["number", "PLACES"] or kinds == ["number", "X"]:
            self.once("count", int(inside[0].text))
        elif kinds[:2] == ["=", "number"]:
            if "°" in kinds:
                self.once("total", float(inside[1].text.replace(",", ".")))
            else:
                self.once("total", self.figure(inside[1].text))
        elif "number" not in kinds or not _FIGURES.issuperset(kinds):
            raise Unreadable

    # put together

    def requirement(self, more: dict[str, Any]) -> Requirement:
        got = self.got
        for k, v in more.items():
            self.once(k, v)
        if "nominal" not in got:
            raise Unreadable
        kind: Kind = self.kind or "linear"
        typed = self._sized(kind)
        hole = [k for k in ("bore", "sink", "spot", "circle") if k in got]
        if (hole and kind not in ("diameter", "thread")) or ("depth" in got and kind == "angle"):
            raise Unreadable
        if kind == "chamfer" and "leg" not in got:
            got.setdefault("angle", 45.0)
        if kind == "chamfer" and "angle" in got and not 0 < got["angle"] < 90:
            raise Unreadable
        got.pop("thread_depth", None)
        if not 1 <= got.get("count", 1) <= 9999:
            raise Unreadable
        made = Requirement(kind=kind, typed=typed, **got)
        return self._within(made)

    def _sized(self, kind: str) -> str:
        """The nominal and its limits in mm or degrees; what is typed into a field for it."""
        got = self.got
        nominal = got["nominal"]
        if kind == "thread":
            return str(got["thread"])
        if kind == "angle":
            return f"{number(nominal, 9)}°"
        ends = [nominal] if isinstance(nominal, str) else list(nominal[1:])
        sizes = [self.figure(t) for t in ends]
        if len(sizes) == 2:
            got["nominal"] = sum(sizes) / 2
            half = abs(sizes[0] - sizes[1]) / 2
            self.limit(-half, half, 2)
            typed = number(got["nominal"] / (MM_PER["in"] if (self.own or self.unit) == "in" else 1), 9)
        else:
            got["nominal"], typed = sizes[0], ends[0]
            off = got.pop("deviations", None)
            if off:
                mm = [k * self.figure(t) for k, t in off]
                self.limit(min(mm), max(mm), len(off))
        if got["nominal"] <= 0 and (kind != "linear" or got["nominal"] < 0):
            raise Unreadable
        if "fit" in got:
            self._class()
        if got.get("bound"):
            if "lower" in got:
                raise Unreadable
            got["toleranced"] = True
        return f"{typed} {self.own}" if self.own else typed

    def _class(self) -> None:
        """The limits of a tolerance class, from the standard's tables."""
        match = re.fullmatch(r"([A-Za-z]+)(\d+)", self.got["fit"])
        assert match is not None
        found = fits.limits(self.got["nominal"], match[1], int(match[2]))
        if found is None or "lower" in self.got:
            raise Unreadable
        self.limit(*found, 2)

    def _within(self, r: Requirement) -> Requirement:
        """What is typed lies within the limits: at the nominal, or else in the middle of them."""
        if r.lower <= 0 <= r.upper or r.nominal is None:
            return r
        middle = r.nominal + (r.lower + r.upper) / 2
        if r.kind == "angle":
            return r.model_copy(update={"typed": f"{number(middle, 9)}°"})
        own = self.own or self.unit
        figure = number(middle / (MM_PER["in"] if own == "in" else 1), 9)
        return r.model_copy(update={"typed": f"{figure} {self.own}" if self.own else figure})
