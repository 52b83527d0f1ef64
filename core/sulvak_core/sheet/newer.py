"""A newer issue of a sheet beside the older: which callout stands where on it, which says something else there, which
is gone, and what is new."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import scipy  # its parts are loaded when they are first used

from ..part.document import GONE, Callout
from ..part.units import LengthUnit
from .notation import parse
from .proposals import proposals
from .requirement import Requirement

ELSEWHERE = 1.0  # what another page costs, as a share of a page
NEAR = 0.09  # of the page: so near what a callout said may say something else now
XY = tuple[float, float]


@dataclass
class Newer:
    """``places``: page (of the newer sheet, from 0) and place of each balloon that is found again; ``says``: by
    callout, its text there now, or GONE; ``fresh``: sizes of the newer sheet that no callout has."""

    places: dict[str, tuple[int, XY]] = field(default_factory=dict)
    says: dict[str, str] = field(default_factory=dict)
    fresh: int = 0

    def said(self, numbers: dict[str, int]) -> str:
        """In words, with the callouts' numbers."""
        changed = sorted(numbers[i] for i, text in self.says.items() if text != GONE)
        gone = sorted(numbers[i] for i, text in self.says.items() if text == GONE)
        told = [f"{len(self.places) - len(changed)} callouts are as they were"]
        if changed:
            told.append(f"changed: {_list(changed)}")
        if gone:
            told.append(f"no longer on the sheet: {_list(gone)}")
        if self.fresh:
            told.append(f"{self.fresh} new sizes to be read")
        return "; ".join(told) + "."


def _list(numbers: list[int]) -> str:
    return ", ".join(map(str, numbers))


@dataclass
class _Text:
    page: int
    box: tuple[float, float, float, float]
    at: XY
    text: str
    means: Requirement

    def middle(self) -> XY:
        return (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2


def newer(
    old: Sequence[dict[str, Any] | None],
    new: Sequence[dict[str, Any] | None],
    callouts: Sequence[Callout],
    unit: LengthUnit,
) -> Newer:
    """``old`` and ``new``: what was read of each page (``proposals.kept``), None where it cannot be read; ``callouts``
    those with a balloon on the sheet, their pages counted from its first one. Without a reading of the newer sheet
    everything stays as it is."""
    if not any(new):
        return Newer()
    was = _was(old, callouts, unit)
    there = [t for n, data in enumerate(new) if data is not None for t in _texts(data, n, unit)]
    found = Newer()
    left = [c for c in callouts if c.at is not None]
    for same in (True, False):
        pairs = _pairs(left, there, was, unit, same)
        for callout, text in pairs:
            found.places[callout.id] = (text.page, _place(callout, text, was.get(callout.id)))
            if not same:
                found.says[callout.id] = text.text
        left = [c for c in left if c.id not in found.places]
        there = [t for t in there if all(t is not mine for _, mine in pairs)]
    found.says |= {c.id: GONE for c in left}
    found.fresh = sum(t.means.kind != "note" for t in there)
    return found


def _texts(data: dict[str, Any], page: int, unit: LengthUnit) -> list[_Text]:
    bare: LengthUnit = data["unit"] or unit
    sizes = [_Text(page, s["box"], tuple(s["at"]), s["text"], parse(s["text"], bare)) for s in data["sizes"]]
    notes = [_Text(page, s["box"], tuple(s["at"]), s["text"], Requirement(kind="note")) for s in data["notes"]]
    return [*sizes, *notes]


def _was(old: Sequence[dict[str, Any] | None], callouts: Sequence[Callout], unit: LengthUnit) -> dict[str, XY]:
    """Where the texts of callouts stood on the older sheet."""
    found: dict[str, XY] = {}
    for n, data in enumerate(old):
        read = proposals(data, n, callouts, unit) if data is not None else {"sizes": [], "notes": []}
        for s in (*read["sizes"], *read["notes"]):
            if s["callout"]:
                left, top, right, bottom = s["box"]
                found[s["callout"]] = ((left + right) / 2, (top + bottom) / 2)
    return found


def _pairs(
    callouts: Sequence[Callout], texts: Sequence[_Text], was: dict[str, XY], unit: LengthUnit, same: bool
) -> list[tuple[Callout, _Text]]:
    """Callouts and the texts they are on the newer sheet: the ``same`` ones wherever they stand, others of their kind
    near where they stood. All together they move least."""
    if not callouts or not texts:
        return []
    cost = np.full((len(callouts), len(texts)), np.inf)
    for i, c in enumerate(callouts):
        means = parse(c.text, c.unit or unit)
        stood = was.get(c.id) or c.at
        assert stood is not None
        for j, t in enumerate(texts):
            away = math.dist(stood, t.middle()) + (ELSEWHERE if c.page != t.page else 0.0)
            alike = c.text == t.text or (means.kind != "note" and _plain(means, unit) == _plain(t.means, unit))
            if (same and alike) or (not same and means.kind == t.means.kind and away < NEAR):
                cost[i, j] = away
    wide = np.hstack([np.where(np.isfinite(cost), cost, 1e6), np.full((len(callouts), len(callouts)), 1e3)])
    rows, columns = scipy.optimize.linear_sum_assignment(wide)
    return [
        (callouts[i], texts[j])
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True)
        if j < len(texts) and np.isfinite(cost[i, j])
    ]


def _plain(r: Requirement, unit: LengthUnit) -> Requirement:
    """A requirement without how it is spelled: 30.0 mm is 30 mm. Inches are held to by their decimals."""
    return r.model_copy(update={"typed": "", **({"decimals": 0} if unit == "mm" else {})})


def _place(callout: Callout, text: _Text, stood: XY | None) -> XY:
    """Where the balloon stands now: beside its text as it stood before."""
    if stood is None or callout.at is None:
        return text.at
    x, y = (a + m - s for a, m, s in zip(callout.at, text.middle(), stood, strict=True))
    return (x, y) if 0 <= x <= 1 and 0 <= y <= 1 else text.at
