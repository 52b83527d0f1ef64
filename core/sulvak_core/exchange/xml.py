"""Reading XML from outside: no DTD, no entities, a bounded number of elements."""

from __future__ import annotations

from typing import Any

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from ..part.errors import Refusal


def parse_svg(data: bytes, most: int = 300_000) -> Any:
    """The root element of an SVG. Raises Refusal for what is unsafe, damaged or has more than ``most`` elements."""
    try:
        root = ElementTree.fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise Refusal("This SVG brings definitions of its own (a DTD or entities); save it without them.") from None
    except (ElementTree.ParseError, ValueError, RecursionError):
        raise Refusal("This SVG is damaged and cannot be read; save it again and retry.") from None
    if sum(1 for _ in zip(root.iter(), range(most + 1), strict=False)) > most:
        raise Refusal("This SVG has too many elements to read.")
    return root


def written(root: Any) -> bytes:
    """An element as bytes again."""
    data: bytes = ElementTree.tostring(root)
    return data
