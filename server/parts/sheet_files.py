"""Telling what an uploaded drawing is by its content, and refusing what is unsafe or no drawing at all."""

import io
import re
import warnings

from PIL import Image, UnidentifiedImageError

from sulvak_core.exchange.xml import parse_svg
from sulvak_core.part.errors import Refusal

PIXELS = 60_000_000
_DXF = re.compile(rb"^\s*0\s*\r?\n\s*SECTION\s*\r?$", re.MULTILINE)
_UNSAFE = {"script", "foreignobject", "iframe", "object", "embed", "animate", "set", "handler"}
_OUTSIDE = re.compile(r"url\s*\(\s*(?!['\"]?\s*#)", re.IGNORECASE)  # anything but a place in the file itself
_PER = {"": 0.75, "px": 0.75, "pt": 1.0, "mm": 72 / 25.4, "cm": 720 / 25.4, "in": 72.0}


def recognise(data: bytes) -> tuple[str, list[tuple[float, float]] | None]:
    """Media type and page sizes in points; None for a PDF or DXF, whose pages are read elsewhere. Raises Refusal."""
    if not data:
        raise Refusal("This file is empty; choose the drawing's file.")
    if data.startswith(b"%PDF-"):
        return "application/pdf", None
    if data.startswith((b"\x89PNG", b"\xff\xd8\xff")):
        return _picture(data)
    head = data[:1000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"<") and b"<svg" in data[:20000]:
        return "image/svg+xml", [_svg_size(data)]
    if b"\r\n\x1a\x00" in data[:32] or _DXF.search(data[:4096]):
        return "image/vnd.dxf", None
    raise Refusal("A sheet is an SVG, PNG, JPG, PDF or DXF file; this is none of them, whatever its name says.")


def _picture(data: bytes) -> tuple[str, list[tuple[float, float]]]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
                if picture.width * picture.height > PIXELS:
                    raise Refusal("This picture has too many pixels; save it smaller and try again.")
                picture.verify()
                kind = "image/png" if picture.format == "PNG" else "image/jpeg"
                return kind, [(picture.width * 0.75, picture.height * 0.75)]
    except Refusal:
        raise
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Refusal("This picture has too many pixels; save it smaller and try again.") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Warning):
        raise Refusal("This picture is damaged and cannot be shown; save it again and retry.") from None


def _svg_size(data: bytes) -> tuple[float, float]:
    root = parse_svg(data)
    for element in root.iter():
        tag = str(element.tag).rsplit("}", 1)[-1].lower()
        if tag in _UNSAFE:
            raise Refusal(f"This SVG holds a “{tag}” element, which a drawing does not need; save it without.")
        if tag == "style" and (_OUTSIDE.search(element.text or "") or "@import" in (element.text or "").lower()):
            raise Refusal("This SVG points at files outside itself; save it with everything inside.")
        for name, value in element.attrib.items():
            _check_attribute(name.rsplit("}", 1)[-1].lower(), value)
    return _size(root.attrib)


def _check_attribute(name: str, value: str) -> None:
    if name.startswith("on"):
        raise Refusal("This SVG holds program code, which a drawing does not need; save it without.")
    outside = name in ("href", "src") and not value.strip().startswith(("#", "data:image/png", "data:image/jpeg"))
    if outside or _OUTSIDE.search(value):
        raise Refusal("This SVG points at files outside itself; save it with everything inside.")


def _size(attributes: dict[str, str]) -> tuple[float, float]:
    sides = []
    for name in ("width", "height"):
        match = re.fullmatch(r"\s*([\d.]+)\s*(px|pt|mm|cm|in)?\s*", attributes.get(name, ""))
        if match:
            sides.append(float(match[1]) * _PER[match[2] or ""])
    box = re.findall(r"[-+\d.eE]+", attributes.get("viewBox", ""))
    if len(sides) != 2 and len(box) == 4:
        sides = [float(box[2]), float(box[3])]
    if len(sides) != 2 or not all(1 <= s <= 20000 for s in sides):
        raise Refusal("This SVG has no size; give it a width and a height.")
    return sides[0], sides[1]
