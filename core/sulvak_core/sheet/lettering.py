"""Texts of a page put together: pieces of a line joined, tolerances set small beside a size, the lines of a callout."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .page import Box, Lettering, merged

Readable = Callable[[str], bool]

GAP = 0.9  # of the size: farther apart two texts on one line belong to different things
SPACE = 0.12  # of the size: what is nearer was written without a space
LEADING = (0.8, 2.1)  # of the size: from one baseline to the next
LINES = 4  # of one callout
SMALL = 0.88  # of the size: a tolerance is set smaller than its size
_MORE = re.compile(  # how a line begins that goes on with a hole
    r"\s*(?:[⌴⌵↧⍽]|SF\b|S'?FACE|SPOT|C['’]?\s?BORE|COUNTER|C['’]?\s?SINK|CSK|DEEP|DEPTH|THRU|THROUGH|M\d|EQ|ON\b"
    r"|\(?\d+\s?(?:X|PL|HOLES)|TYP|REF|UN[CF])",
    re.IGNORECASE,
)
_LIMIT = re.compile(r"\s*(?:[+−–±-]\s*\.?\d|0(?:[.,]0*)?\s*$)")


@dataclass(frozen=True)
class Block:
    """What is read as one: its text, where the letters of it stand, and how they are turned."""

    text: str
    parts: tuple[Lettering, ...]

    @property
    def head(self) -> Lettering:
        return self.parts[0]

    def box(self) -> Box:
        return merged([p.box() for p in self.parts])


def _place(origin: Lettering, other: Lettering) -> tuple[float, float]:
    """Where another's middle lies from this one's, along its line and down from it, in its own size."""
    c, s = origin.along()
    dx, dy = other.at[0] - origin.at[0], other.at[1] - origin.at[1]
    return (dx * c + dy * s) / origin.size, (dy * c - dx * s) / origin.size


def _alike(a: Lettering, b: Lettering) -> bool:
    turned = abs((a.turn - b.turn + 180) % 360 - 180)
    return turned < 2 and abs(a.size - b.size) <= 0.12 * max(a.size, b.size)


def joined_lines(letterings: Sequence[Lettering], readable: Readable) -> list[Lettering]:
    """Pieces that stand behind one another on one line made into one, unless each of them is a size of its own."""
    groups: dict[tuple[int, int], list[Lettering]] = {}
    for t in letterings:
        c, s = t.along()
        down = t.at[1] * c - t.at[0] * s
        groups.setdefault((round(t.turn / 4) % 90, round(down / (0.5 * t.size))), []).append(t)
    near: dict[int, list[Lettering]] = {id(t): [] for t in letterings}
    for (turn, row), mine in groups.items():
        for t in mine:
            for k in (-1, 0, 1):
                near[id(t)] += [o for o in groups.get((turn, row + k), ()) if o is not t]
    follows: dict[int, Lettering] = {}
    led: set[int] = set()
    for t in letterings:
        best: tuple[float, Lettering] | None = None
        for o in near[id(t)]:
            along, down = _place(t, o)
            gap = along - (t.wide + o.wide) / 2 / t.size
            if _alike(t, o) and abs(down) < 0.2 and -0.35 < gap < GAP and along > 0 and (best is None or gap < best[0]):
                best = (gap, o)
        if best is not None and id(best[1]) not in led:
            follows[id(t)] = best[1]
            led.add(id(best[1]))
    found = []
    for t in letterings:
        if id(t) in led:
            continue
        chain = [t]
        while id(chain[-1]) in follows and len(chain) < 400:
            chain.append(follows[id(chain[-1])])
        found += _joined(chain, readable)
    return found


def _joined(chain: list[Lettering], readable: Readable) -> list[Lettering]:
    if len(chain) == 1:
        return chain
    text = chain[0].text
    for a, b in itertools.pairwise(chain):
        along, _ = _place(a, b)
        spaced = along - (a.wide + b.wide) / 2 / a.size > SPACE
        text += (" " if spaced and not text.endswith(" ") else "") + b.text
    if not readable(text) and all(readable(t.text) for t in chain):
        return chain
    c, s = chain[0].along()
    start = (chain[0].at[0] - c * chain[0].wide / 2, chain[0].at[1] - s * chain[0].wide / 2)
    end = (chain[-1].at[0] + c * chain[-1].wide / 2, chain[-1].at[1] + s * chain[-1].wide / 2)
    middle = ((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)
    first = chain[0]
    return [Lettering(text, middle, max(t.size for t in chain), first.turn, math.dist(start, end), first.layer)]


def blocks(lines: Sequence[Lettering], readable: Readable) -> list[Block]:
    """Lines as callouts: with the tolerances beside them, and with the lines below that go on with them."""
    limits, taken = _with_limits(lines)
    rest = sorted((t for t in lines if id(t) not in taken), key=lambda t: (round(t.turn), t.at[1], t.at[0]))
    found: list[Block] = []
    used: set[int] = set()
    for t in rest:
        if id(t) in used:
            continue
        chain = [t]
        while len(chain) < LINES and (below := _below(chain[-1], rest, used)) is not None:
            chain.append(below)
        block = _callout(chain, limits, readable)
        used |= {id(p) for p in block.parts}
        found.append(block)
    return found


def _text(t: Lettering, limits: dict[int, list[Lettering]]) -> tuple[str, list[Lettering]]:
    small = limits.get(id(t), [])
    return " ".join([t.text, "/".join(s.text.strip() for s in small)]).strip(), [t, *small]


def _callout(chain: list[Lettering], limits: dict[int, list[Lettering]], readable: Readable) -> Block:
    """As many of the lines as make one callout together: the first alone where no more do."""
    told = [_text(t, limits) for t in chain]
    for count in range(len(chain), 1, -1):
        text = " ".join(words for words, _ in told[:count])
        goes_on = all(_MORE.match(words) or not readable(words) for words, _ in told[1:count])
        if goes_on and readable(text) and (readable(told[0][0]) or _MORE.match(told[1][0])):
            return Block(text, tuple(p for _, parts in told[:count] for p in parts))
    if len(chain) > 1 and _two_limits(chain[0], chain[1]):
        return Block(f"{chain[0].text}/{_figure(chain[1].text)}", (chain[0], chain[1]))
    return Block(told[0][0], tuple(told[0][1]))


def _figure(text: str) -> str:
    return re.sub(r"^[^\d.,]*", "", text)


def _two_limits(a: Lettering, b: Lettering) -> bool:
    """Whether two lines are the limits of one size: as many decimals, nearly the same, closely set."""
    one, two = (re.fullmatch(r"\s*(?:\d+\s?X\s)?[⌀Øø∅R]?\s*\d*([.,]\d+)\s*", t.text, re.IGNORECASE) for t in (a, b))
    if one is None or two is None or len(one[1]) != len(two[1]):
        return False
    x, y = (float(_figure(t.text.split("X ")[-1]).replace(",", ".").strip()) for t in (a, b))
    along, down = _place(a, b)
    return abs(x - y) <= 0.05 * max(x, y) and x != y and down < 1.5 and abs(along) < 0.6


def _below(t: Lettering, lines: Sequence[Lettering], used: set[int]) -> Lettering | None:
    best: tuple[float, Lettering] | None = None
    for o in lines:
        if o is t or id(o) in used or not _alike(t, o):
            continue
        along, down = _place(t, o)
        if not LEADING[0] <= down <= LEADING[1]:
            continue
        reach = (t.wide + o.wide) / 2 / t.size
        overlap = reach - abs(along)
        if overlap >= 0.4 * min(t.wide, o.wide) / t.size and (best is None or down < best[0]):
            best = (down, o)
    return best[1] if best else None


def _with_limits(lines: Sequence[Lettering]) -> tuple[dict[int, list[Lettering]], set[int]]:
    """Tolerances set small behind a size, the upper first; and all that are."""
    small = [t for t in lines if _LIMIT.match(t.text)]
    found: dict[int, list[Lettering]] = {}
    taken: set[int] = set()
    for t in small:
        best: tuple[float, Lettering] | None = None
        for o in lines:
            if o is t or o.size * SMALL < t.size or not any(ch.isdigit() for ch in o.text):
                continue
            if abs((o.turn - t.turn + 180) % 360 - 180) > 2:
                continue
            along, down = _place(o, t)
            gap = along - (o.wide + t.wide) / 2 / o.size
            if -0.4 < gap < GAP and -1.1 < down < 0.8 and (best is None or gap < best[0]):
                best = (gap, o)
        if best is not None:
            found.setdefault(id(best[1]), []).append(t)
            taken.add(id(t))
    for owner, mine in found.items():
        head = next(o for o in lines if id(o) == owner)
        mine.sort(key=lambda t: _place(head, t)[1])
    return found, taken
