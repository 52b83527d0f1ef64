"""The plainest shapes of an SVG, straight lines in absolute places without transformations or styles, read by
themselves: large sheets are made of little else, and svgelements takes its time over each."""

from __future__ import annotations

import itertools
import math
import re
from functools import lru_cache
from typing import Any

import svgelements as S

from ..sheet.page import Stroke

XY = tuple[float, float]
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_PIECE = re.compile(rf"([MLHVZ])|({_NUMBER})")
_PLAIN = re.compile(r"\s*M[MLHVZ0-9eE+\-.,\s]*")  # by letters alone: no pattern that could be tried over and over
_LOOK = ("stroke", "stroke-width", "stroke-dasharray", "fill")  # handed on from a group to what is in it
_KNOWN = {"id", "d", "x1", "y1", "x2", "y2", *_LOOK, "stroke-linecap", "stroke-linejoin", "stroke-miterlimit"}
_SIMPLE = re.compile(rf"(?=.{{1,40}}$)\s*{_NUMBER}\s*")
_DASHES = re.compile(r"[0-9.,\s]*")


def take_plain(root: Any, k: float, shift: XY) -> list[Stroke]:
    """The strokes of the plain shapes of an SVG's root, which are taken out of it. Lengths of the file times ``k``,
    moved by ``shift``. Files with style sheets are left alone."""
    tags = {str(e.tag).rsplit("}", 1)[-1] for e in root.iter()}
    if "style" in tags or set(root.attrib) - {"width", "height", "viewBox", "version", "preserveAspectRatio", "id"}:
        return []
    named = {v.strip()[1:] for e in root.iter() for n, v in e.attrib.items() if n.endswith("href")}
    found: list[Stroke] = []
    _walk(root, {}, "", 0, named, (k, *shift), found)
    return found


def _walk(
    group: Any,
    look: dict[str, str],
    layer: str,
    depth: int,
    named: set[str],
    place: tuple[float, float, float],
    found: list[Stroke],
) -> None:
    rest = []
    for element in group:
        tag = str(element.tag).rsplit("}", 1)[-1]
        own = element.attrib
        mine = {**look, **{n: own[n] for n in _LOOK if n in own}}
        plain = all(n in _KNOWN or n.startswith("data-") for n in own) and own.get("id") not in named
        if tag == "g" and plain:
            _walk(element, mine, own.get("id", layer) if depth == 0 else layer, depth + 1, named, place, found)
        elif tag in ("path", "line") and plain:
            strokes = _strokes(tag, own, mine, layer, place)
            if strokes is not None:
                found += strokes
                continue
        rest.append(element)
    group[:] = rest


def _strokes(
    tag: str, own: dict[str, str], look: dict[str, str], layer: str, place: tuple[float, float, float]
) -> list[Stroke] | None:
    """None for what is not as plain as that."""
    k, dx, dy = place
    width, dashes = look.get("stroke-width", "1"), look.get("stroke-dasharray", "none")
    seen, inked = _paint(look.get("stroke", "none"))[0], _paint(look.get("fill", "black"))
    if not _SIMPLE.fullmatch(width) or (dashes != "none" and not _DASHES.fullmatch(dashes)):
        return None
    runs = _line(own) if tag == "line" else _runs(own.get("d", ""))
    if runs is None:
        return None
    filled = any(len(r) > 2 for r in runs) and inked[0] and not inked[1]  # a line alone holds nothing
    if not seen and not filled:
        return []
    dash = tuple(float(v) * k for v in re.findall(_NUMBER, dashes)) if dashes != "none" else ()
    dash = dash if any(v > 0 for v in dash) else ()
    wide = float(width) * k if seen else 0.0
    made = []
    for run in runs:
        at = [(x * k + dx, y * k + dy) for x, y in run]
        made += [
            Stroke("line", (a, b), None, 0.0, 0.0, wide, dash, layer, filled)
            for a, b in itertools.pairwise(at)
            if math.dist(a, b) > 1e-6
        ]
    return made


@lru_cache(maxsize=200)
def _paint(value: str) -> tuple[bool, bool]:
    """Whether a paint is one, and whether it is the paper's."""
    colour = S.Color(value)
    if colour.value is None:
        return False, True
    return True, bool(colour.opacity == 0 or (colour.red > 240 and colour.green > 240 and colour.blue > 240))


def _line(own: dict[str, str]) -> list[list[XY]] | None:
    values = [own.get(n, "0") for n in ("x1", "y1", "x2", "y2")]
    if not all(_SIMPLE.fullmatch(v) for v in values):
        return None
    a, b, c, d = map(float, values)
    return [[(a, b), (c, d)]]


def _runs(d: str) -> list[list[XY]] | None:
    """The runs of a path of straight lines in absolute places; None for any other."""
    if not _PLAIN.fullmatch(d) or _PIECE.sub("", d).strip(" ,\t\r\n"):
        return None
    runs: list[list[XY]] = []
    command = ""
    held: list[float] = []
    for m in _PIECE.finditer(d):
        if m[1]:
            if held:
                return None
            command = m[1]
            if command == "Z":
                if not runs:
                    return None
                runs[-1].append(runs[-1][0])
            continue
        held.append(float(m[2]))
        if command in "HV":
            if not runs:
                return None
            x, y = runs[-1][-1]
            runs[-1].append((held[0], y) if command == "H" else (x, held[0]))
            held = []
        elif len(held) == 2:
            if command == "M":
                runs.append([])
                command = "L"
            if command != "L" or not runs:
                return None
            runs[-1].append((held[0], held[1]))
            held = []
    return None if held else runs
