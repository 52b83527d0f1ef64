"""Reading XML from outside: no DTD, no entities, a bounded number of elements."""

from __future__ import annotations

import re
from typing import Any

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from ..part.errors import Refusal

MANY = "This SVG has too many elements to read."
DEEPEST = 200
PIECES = 400_000  # numbers in all paths
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_DOCTYPE = re.compile(
    rb"<!DOCTYPE\s+svg(?:\s+(?:PUBLIC\s+(?:\"[^\"]*\"|'[^']*')|SYSTEM))?(?:\s+(?:\"[^\"]*\"|'[^']*'))?\s*>"
)


def parse_svg(data: bytes, most: int = 300_000) -> Any:
    """The root element of an SVG. Raises Refusal for what is unsafe, damaged, or has more than ``most`` elements where
    all that it uses again is counted."""
    # told before the file is read, which takes time in its size: every element has an opening bracket
    if data.count(b"<") - data.count(b"</") > most + 1000:
        raise Refusal(MANY)
    try:
        root = ElementTree.fromstring(_without_doctype(data), forbid_dtd=True)
    except DefusedXmlException:
        raise Refusal("This SVG brings definitions of its own (a DTD or entities); save it without them.") from None
    except (ElementTree.ParseError, ValueError, RecursionError):
        raise Refusal("This SVG is damaged and cannot be read; save it again and retry.") from None
    _count(root, most)
    return root


def _without_doctype(data: bytes) -> bytes:
    """The file without a declaration that names SVG's own document type; one that defines anything itself stays, and is
    refused."""
    return _DOCTYPE.sub(b"", data, count=1)


def _count(root: Any, most: int) -> None:
    """Raises Refusal for too many elements or pieces of paths, groups too deep, or what uses itself over and over."""
    ids: dict[str, Any] = {}
    order: list[Any] = []
    pieces = 0
    waiting = [(root, 1)]
    while waiting:
        element, depth = waiting.pop()
        order.append(element)
        if depth > DEEPEST:
            raise Refusal("This SVG has groups within groups too deep to read; save it flattened.")
        if "id" in element.attrib:
            ids.setdefault(element.attrib["id"], element)
        for name in ("d", "points"):
            if text := element.attrib.get(name):
                pieces += _numbers(text, PIECES - pieces)
        if len(order) > most or pieces >= PIECES:
            raise Refusal(MANY)
        waiting += [(child, depth + 1) for child in element]
    if not any(k.endswith("href") for e in order for k in e.attrib):
        return  # nothing is drawn twice
    weights: dict[int, int] = {}  # of an element with all that it uses; those being worked out are 0
    todo = [root]
    while todo:
        element = todo[-1]
        inner = [*element, *_used(element, ids)]
        if id(element) not in weights:
            weights[id(element)] = 0
            if any(weights.get(id(e)) == 0 for e in inner):
                raise Refusal("This SVG uses itself within itself; save it flattened.")
            todo += [e for e in inner if id(e) not in weights]
            continue
        todo.pop()
        if weights[id(element)] == 0:
            weights[id(element)] = 1 + sum(weights[id(e)] for e in inner)
            if weights[id(element)] > most:
                raise Refusal("This SVG uses parts of itself so often that it has too many elements to read.")


def _used(element: Any, ids: dict[str, Any]) -> list[Any]:
    """What an element draws again: a use names it, a fill or a mask may too."""
    named = [
        v.strip()[1:] for k, v in element.attrib.items() if k.rsplit("}", 1)[-1] == "href" and v.strip()[:1] == "#"
    ]
    return [ids[name] for name in named if name in ids]


def _numbers(text: str, most: int) -> int:
    """How many numbers a path has, up to ``most``."""
    if len(text) <= most:
        return len(_NUMBER.findall(text))
    return sum(1 for _ in zip(_NUMBER.finditer(text), range(max(most, 0)), strict=False))


def written(root: Any) -> bytes:
    """An element as bytes again."""
    data: bytes = ElementTree.tostring(root)
    return data
