"""New ids for what is made in a sketch."""

from __future__ import annotations

from .edit import used_numbers
from .model import Sketch


class Numbers:
    """New ids for a sketch, none ever given twice."""

    def __init__(self, sketch: Sketch) -> None:
        self.top = used_numbers(sketch, [])

    def new(self, letter: str) -> str:
        self.top[letter] = self.top.get(letter, 0) + 1
        return f"{letter}{self.top[letter]}"
