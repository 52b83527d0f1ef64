"""The signs and words of a callout's text, whatever way they are spelled.

ASME Y14.5 and ISO 129-1 draw symbols; older sheets and sheets typed by hand write words. Both come out as the same
words here.
"""

from __future__ import annotations

import re
from typing import NamedTuple


class Word(NamedTuple):
    """A number (``kind`` “number”), a tolerance class (“class”, ``H7``), a new line (“line”), or a sign or word.

    ``text`` is as written for numbers and classes, else the sign all spellings share. ``tight``: nothing stood between
    it and the word before; ``loose``: a space follows.
    """

    kind: str
    text: str
    tight: bool
    loose: bool


THREAD = "\ue000"  # stands for a thread's designation, which is read beforehand
_NUMBER = r"\d+(?:\s+|-)\d+/\d+(?![\d.])|\d+/\d+(?![\d./])|\d+(?:[.,]\d+)?|[.,]\d+"
# longest first where one begins another; a sign of letters ends where a word ends
_SIGNS: list[tuple[str, str]] = [
    ("line", r"[\n\r]+|\s*;\s*|\s+\|\s+"),
    ("S⌀", r"S\s*[⌀Øø∅](?![A-Za-z])|SPHER(?:ICAL|E)\s+DIA(?:METER)?\b\.?"),
    ("SR", r"SR(?![A-Za-z])|SPHER(?:ICAL|E)\s+R(?:AD(?:IUS)?)?\b\.?"),
    ("CR", r"CR(?![A-Za-z])"),
    ("⌀", r"[⌀Øø∅]|DIA(?:METER|M)?\b\.?"),
    ("□", r"[□◻]|SQ(?:UARE)?\b\.?"),
    ("°", r"[°º˚]|DEG(?:REES?)?\b\.?"),
    ("±", r"±|\+\s*/\s*[-−–]|\+[-−–]"),
    ("+", r"\+"),
    ("-", r"[-−–]"),
    ("SF", r"⌴\s*SF\b|SF(?:ACE)?\b\.?|S'FACE\b|SPOT\s?-?FACED?\b|⍽"),
    ("⌴", r"⌴|C['’]?\s?BORED?\b|COUNTERBORED?\b"),
    ("⌵", r"⌵|C['’]?\s?SINK\b|CSK\b|COUNTERSINK\b|COUNTERSUNK\b"),
    ("↧", r"↧|DEEP\b|DEPTH\b|DP\b\.?"),
    ("THRU", r"THRU(?:\s+ALL)?\b|THROUGH(?:\s+ALL)?\b"),
    ("TYP", r"TYP(?:ICAL)?\b\.?"),
    ("EQSP", r"EQ(?:UALLY|L)?\.?\s*(?:SP(?:ACED|C)?|DIV(?:IDED)?)\b\.?|EQS\b"),
    ("BC", r"B\.?\s?C\.?(?![A-Za-z])|P\.?C\.?D\b\.?|BOLT\s+CIRCLE\b|PITCH\s+CIRCLE\b"),
    ("ON", r"ON(?:\s+A)?\b|AROUND\b"),
    ("MAX", r"MAX(?:IMUM)?\b\.?"),
    ("MIN", r"MIN(?:IMUM)?\b\.?"),
    ("REF", r"REF(?:ERENCE)?\b\.?"),
    ("BASIC", r"BASIC\b|BSC\b\.?|TED\b"),
    ("CHAM", r"CHAM(?:FER)?\b\.?|CHF\b\.?"),
    ("THICK", r"THK\b\.?|THICK(?:NESS)?\b"),
    ("THREAD", THREAD),
    ("PLACES", r"PLACES\b|PLCS\b\.?|PLC\b\.?|PL\b\.?|HOLES\b|OFF\b|TIMES\b"),
    ("SIDES", r"BOTH\s+(?:SIDES|ENDS)\b"),
    ("NOISE", r"HOLE\b|DRILL(?:ED)?\b|REAM(?:ED)?\b|BORED?\b"),
    ("TAP", r"TAP(?:PED)?\b"),
    ("mm", r"mm\b"),
    ("in", r"in\b\.?|INCH(?:ES)?\b|[\"″]"),
    ("′", r"['′]"),
    ("X", r"[xX×✕](?![A-WYZa-wyz])"),
    ("/", r"/"),
    ("=", r"="),
    ("(", r"\("),
    (")", r"\)"),
    ("[", r"\["),
    ("]", r"\]"),
    ("R", r"R(?=[\d.,])|R(?:AD(?:IUS)?)?\b\.?"),
    ("C", r"C(?=\s?[\d.,])"),
    ("t", r"t\s*=?(?=\s?[\d.,])"),
    ("COMMA", r"[,:]"),
]
_CLASS = r"(?:JS|js|[A-HJ-NP-Za-hj-np-z])(?:0?1|[1-9]|1[0-8])(?![\d.,/])"
_KEPT_CASE = {"S⌀", "C", "t"}
_WORDS = re.compile(
    "|".join(
        [
            rf"(?P<number>{_NUMBER})",
            *(f"(?P<k{i}>{p if k in _KEPT_CASE else f'(?i:{p})'})" for i, (k, p) in enumerate(_SIGNS)),
        ]
    )
)
_AFTER_SIZE = re.compile(_CLASS)


def words(text: str) -> list[Word] | None:
    """The words of a callout; None where something in it is no word of a size."""
    found: list[Word] = []
    at, end = 0, len(text)
    while at < end:
        space = at
        while at < end and text[at] in " \t\u00a0\u2009\u202f":
            at += 1
        if at == end:
            break
        tight = space == at
        match = _AFTER_SIZE.match(text, at) if found and found[-1].kind == "number" else None
        if match is None:
            match = _WORDS.match(text, at)
            if match is None or match.end() == at:
                return None
            name = match.lastgroup or ""
            kind = "number" if name == "number" else _SIGNS[int(name[1:])][0]
        else:
            kind = "class"
        at = match.end()
        shown = match.group().replace("-", " ") if kind == "number" else match.group() if kind == "class" else kind
        found.append(Word(kind, shown, tight, at < end and text[at] in " \t\u00a0\u2009\u202f"))
    return found
