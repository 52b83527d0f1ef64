"""What the core says when it will not do something."""

from __future__ import annotations

from typing import Any


class Refusal(Exception):
    """A request that is answered with a sentence and changes nothing.

    ``sentence`` is for the person and says what to do; ``detail`` is data a screen can
    act on (ids to light up, offers to make).
    """

    def __init__(self, sentence: str, **detail: Any) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.detail = detail


class ExpressionError(Refusal):
    """A typed value that cannot be read. ``start`` and ``end`` mark the place in the text."""

    def __init__(self, sentence: str, start: int, end: int) -> None:
        super().__init__(sentence, start=start, end=end)
        self.start = start
        self.end = end
