"""The lines of a page and of the part that are held against each other, each looked at in small steps once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np

from ..sheet.page import Stroke
from ..sheet.views import SheetView, run
from ..solid.outline import Lines
from .runs import Walked, run_length, walked

Made = TypeVar("Made")
Kind = Literal["seen", "hidden"]

FINE = 0.5  # of the tolerance: the step in which lines are looked at
MOST = 1_500_000  # places looked at


def by_kind(view: SheetView) -> list[tuple[Kind, list[Stroke]]]:
    """Outlines and hidden lines of a view."""
    return [("seen", view.seen), ("hidden", view.hidden)]


@dataclass(frozen=True)
class ModelWalk:
    """Lines of the part in small steps, mm; ``step``: how small."""

    seen: Walked
    smooth: Walked
    hidden: Walked
    step: float

    @property
    def edges(self) -> tuple[Walked, Walked]:
        return self.seen, self.smooth


class Walks:
    """What is held against each other for one page: lines are walked once, however often they are compared, and what is
    told of single lines is put together where it is asked for."""

    def __init__(self) -> None:
        # what a key is made of is kept beside, so that nothing else can come to have its identity
        self._model: dict[tuple[int, float], tuple[Lines, ModelWalk]] = {}
        self._views: dict[tuple[int, float], tuple[SheetView, dict[Kind, Walked]]] = {}
        self._pending: dict[int, tuple[object, Callable[[], None]]] = {}

    def model(self, lines: Lines, tolerance: float) -> ModelWalk:
        key = (id(lines), tolerance)
        if key not in self._model:
            groups = [[np.array(r) for r in runs] for runs in (lines.seen, lines.smooth, lines.hidden)]
            step = max(tolerance * FINE, sum(run_length(r) for runs in groups for r in runs) / MOST)
            seen, smooth, hidden = (walked(runs, step) for runs in groups)
            self._model[key] = (lines, ModelWalk(seen, smooth, hidden, step))
        return self._model[key][1]

    def view(self, view: SheetView, step: float) -> dict[Kind, Walked]:
        """Outlines and hidden lines of a view, in points."""
        key = (id(view), step)
        if key not in self._views:
            found = {kind: walked([run(s) for s in strokes], step) for kind, strokes in by_kind(view)}
            self._views[key] = (view, found)
        return self._views[key][1]

    def told_later(self, made: object, pieces: Callable[[], None]) -> None:
        self._pending[id(made)] = (made, pieces)

    def whole(self, made: Made) -> Made:
        """The same with its pieces and the part's own lines."""
        if found := self._pending.pop(id(made), None):
            found[1]()
        return made
