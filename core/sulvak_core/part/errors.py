"""What the core says when it will not do something."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from typing_extensions import TypedDict, Unpack


class Detail(TypedDict, total=False):
    """What a screen can act on when something is refused.

    ``ref``, ``refs``, ``dimension``: of a sketch; ``step``, ``field``, ``material``: where it is; ``because``: the ties
    and sizes that stand against it, and for which ``reason``; ``needs``, ``dependents``: steps; ``most``: of a length
    (mm) that fits; ``start``, ``end``: letters of a typed value; ``offer``: what would do instead.
    """

    ref: str
    refs: list[str]
    dimension: str
    step: str
    field: str
    material: str
    because: list[str]
    reason: Literal["redundant", "conflict"]
    needs: str
    dependents: list[str]
    most: float
    start: int
    end: int
    offer: Literal["reference", "bring", "with_dependents", "again", ""]


class Refusal(Exception):
    """A request that is answered with a sentence and changes nothing.

    ``sentence`` is for the person and says what to do; ``detail`` is data a screen can
    act on (ids to light up, offers to make).
    """

    def __init__(self, sentence: str, **detail: Unpack[Detail]) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.detail = detail


class Change(TypedDict):
    """Fields of a step set otherwise, and what the button for it says."""

    label: str
    changes: dict[str, Any]


class Move(TypedDict):
    """A step (None: the one that failed) to go before another."""

    step: str | None
    before: str


class Lost(TypedDict, total=False):
    """What a step had picked and does not find: a place by it (mm), and what a face came from."""

    near: tuple[float, float, float] | None
    origins: list[str]


class Offers(TypedDict, total=False):
    """What could be done about a step that failed.

    ``field``: to be typed anew; ``pick``: the slot to be picked again; ``needs``: the step to be put right first;
    ``largest``: what fits at most, a length in the part's unit or an angle by ``quantity``; ``lost``: what was picked,
    or the entities of a sketch that follow no edge any more; ``open_ends``: places in the sketch (mm); ``cause``: for
    the log.
    """

    field: str
    pick: str
    needs: str
    largest: float
    quantity: Literal["length", "angle"]
    lost: Lost | list[str]
    open_ends: list[tuple[float, float]]
    move: Move
    offer: Change
    cause: str


class ExpressionError(Refusal):
    """A typed value that cannot be read. ``start`` and ``end`` mark the place in the text."""

    def __init__(self, sentence: str, start: int, end: int) -> None:
        super().__init__(sentence, start=start, end=end)
        self.start = start
        self.end = end


_WORDS = {
    "missing": "“{last}” is missing",
    "extra_forbidden": "“{last}” is not known there",
    "string_type": "a text is wanted for “{last}”",
    "float_type": "a number is wanted for “{last}”",
    "float_parsing": "a number is wanted for “{last}”",
    "int_type": "a whole number is wanted for “{last}”",
    "int_parsing": "a whole number is wanted for “{last}”",
    "bool_parsing": "true or false is wanted for “{last}”",
    "list_type": "a list is wanted for “{last}”",
    "dict_type": "“{last}” is not written as it should be",
    "model_type": "“{last}” is not written as it should be",
    "model_attributes_type": "“{last}” is not written as it should be",
    "finite_number": "“{last}” is no finite number",
    "string_too_long": "“{last}” is too long (at most {max_length} characters)",
    "string_too_short": "“{last}” is too short",
    "too_long": "“{last}” has too many entries (at most {max_length})",
    "too_short": "“{last}” has too few entries",
    "greater_than": "“{last}” must be more than {gt}",
    "greater_than_equal": "“{last}” must be at least {ge}",
    "less_than": "“{last}” must be less than {lt}",
    "less_than_equal": "“{last}” must be at most {le}",
    "literal_error": "“{last}” is one of {expected}",
    "union_tag_invalid": "there is no {last} of the kind “{tag}”; there are {expected_tags}",
    "union_tag_not_found": "“{last}” does not say of which kind it is",
    "string_pattern_mismatch": "“{last}” is not written as it should be",
}


def validation_words(error: Mapping[str, Any]) -> tuple[str, str]:
    """Where an entry of a validation error is (“steps → 2 → depth”), and what is wrong there, in plain words."""
    place = [str(k) for k in error.get("loc", ())]
    context = dict(error.get("ctx") or {})
    words = _WORDS.get(str(error.get("type")))
    last = place[-1] if place else "the whole"
    try:
        said = words.format(last=last, **context) if words else ""
    except (KeyError, IndexError):
        said = ""
    return " → ".join(place), said or str(error.get("msg", "it cannot be read")).removeprefix("Value error, ")
