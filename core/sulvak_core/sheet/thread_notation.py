"""The designation of a thread, found in a callout's text."""

from __future__ import annotations

import re

from ..part.threads import INCH, THREADS, Thread
from .spelling import THREAD

_CLASS = r"(?:\s*-?\s*\d{1,2}[A-Za-z](?:\d{1,2}[A-Za-z])?(?![A-Za-z\d.,]))?(?:\s*-?\s*LH\b)?"
_METRIC = re.compile(
    r"(?<![\w.,])M(?P<name>\d+(?:[.,]\d+)?)(?:\s*[xX×]\s*(?P<pitch>\d+(?:[.,]\d+)?)(?!\s*(?:DEEP|DEPTH|DP\b)))?(?![\d.,])"
    + _CLASS,
    re.IGNORECASE,
)
_INCH = re.compile(
    r"(?<![\w.,/#])(?P<name>#\d{1,2}|\d+(?:/\d+)?|\d*\.\d+)\s*-\s*(?P<turns>\d{1,2})(?![\d.,/])"
    r"(?:\s*-?\s*UN[CFS]?\b)?" + _CLASS
)


def thread_in(text: str) -> tuple[str, Thread | None]:
    """The text with a thread's designation replaced by THREAD, if one of the tables stands in it."""
    for pattern, known in ((_METRIC, _metric), (_INCH, _inch)):
        for match in pattern.finditer(text):
            thread = known(match)
            if thread is not None:
                return f"{text[: match.start()]}{THREAD}{text[match.end() :]}", thread
    return text, None


def _metric(match: re.Match[str]) -> Thread | None:
    name, pitch = f"M{match['name'].replace(',', '.')}", (match["pitch"] or "").replace(",", ".")
    coarse = THREADS.get(name)
    if not pitch or (coarse and abs(coarse.pitch - float(pitch)) < 1e-9):
        return coarse  # the coarse pitch may be said or left out
    return THREADS.get(f"{name}x{float(pitch):g}")


def _inch(match: re.Match[str]) -> Thread | None:
    name, turns = match["name"], match["turns"]
    found = THREADS.get(f"{name}-{turns}") or THREADS.get(f"#{name}-{turns}")
    if found or "." not in name:
        return found
    wide = float(name) * INCH
    return next((t for k, t in THREADS.items() if k.endswith(f"-{turns}") and abs(t.diameter - wide) < 0.005), None)
