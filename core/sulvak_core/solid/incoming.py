"""Solids read from STEP files of others. The kernel's reader trusts what it reads; what it must not see is kept from
it, and what it made is looked at before anybody uses it.

Only for processes with limits on time and memory: the reader can still crash on files nobody has thought of.
"""

from __future__ import annotations

import math
import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_RetDone
from OCP.Message import Message_ProgressRange
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import (
    XCAFDoc_ColorGen,
    XCAFDoc_ColorSurf,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from .files import _quiet
from .measure import box
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, solids

LARGEST = 30_000_000  # bytes
DEEPEST = 40  # parentheses within each other; real files stay under ten
RECORDS = 1_500_000
SOLIDS = 200
FACES = 50_000
REACH = 1e6  # mm: what lies farther out is no part
NUMBER = re.compile(rb"(?<![A-Za-z0-9_'\"])[+-]?(?:nan|inf|infinity)(?![A-Za-z0-9_])", re.IGNORECASE)
HUGE = re.compile(rb"[0-9.]E\+?0*[1-9][0-9]{2,}", re.IGNORECASE)  # written with three digits they may be small
QUOTED = re.compile(rb"'(?:[^']|'')*'")
BREP = re.compile(rb"=\s*(?:\(.{0,400}?)?\b(?:MANIFOLD_SOLID_BREP|BREP_WITH_VOIDS|FACETED_BREP)\s*\(", re.DOTALL)
COMMENT = re.compile(rb"/\*.*?\*/", re.DOTALL)


@dataclass
class Incoming:
    """A solid out of a file, with the name and colour (``#rrggbb``) it has there; empty where it has none."""

    solid: Solid
    name: str = ""
    colour: str = ""


@dataclass
class Contents:
    """What a file holds: its solids, and how many ``loose`` surfaces that belong to none."""

    bodies: list[Incoming]
    loose: int = 0


def refuse(data: bytes) -> bytes:
    """The records of a file without its strings and comments. Raises KernelError in plain words for bytes the reader
    must not see: not STEP, too much, or made to break it."""
    if len(data) > LARGEST:
        raise KernelError(f"This file is larger than {LARGEST // 1_000_000} MB; export the one part you need.")
    head = data[:2000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if not head.startswith(b"ISO-10303-21"):
        raise KernelError("This is not a STEP file: it does not begin with ISO-10303-21.")
    bare = COMMENT.sub(b"", QUOTED.sub(b"''", data))
    if b"DATA" not in bare or b"END-ISO-10303-21" not in bare:
        raise KernelError("This STEP file is cut short: its end is missing.")
    if bare.count(b"=") > RECORDS:
        raise KernelError(f"This STEP file has over {RECORDS:,} records; export the one part you need.")
    if NUMBER.search(bare) or HUGE.search(bare):
        raise KernelError("This STEP file has numbers that are none (NaN, infinite or beyond all size).")
    depth = deepest = 0
    for c in re.finditer(rb"[()]", bare):
        depth += 1 if c[0] == b"(" else -1
        deepest = max(deepest, depth)
        if depth < 0 or deepest > DEEPEST:
            raise KernelError("The parentheses of this STEP file do not fit together.")
    if depth:
        raise KernelError("The parentheses of this STEP file do not fit together.")
    return bare


def read_step(data: bytes, step: str) -> Contents:
    """The solids of a STEP file (AP203, AP214, AP242), in mm, each valid and closed, faces tagged ``step/face/f<n>`` in
    the order of the file. Raises KernelError saying what is wrong; nothing is taken in half."""
    promised = len(BREP.findall(refuse(data)))
    _quiet()
    broken = "its geometry is broken." if promised else "there is no solid in it."
    document = TDocStd_Document(TCollection_ExtendedString("incoming"))
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "incoming.step"
        path.write_bytes(data)
        if reader.ReadFile(str(path)) != IFSelect_RetDone:
            raise KernelError("This STEP file cannot be read: its structure is broken.")
        try:
            done = reader.Transfer(document, Message_ProgressRange())
        except Exception as error:
            raise KernelError(f"This STEP file cannot be read: {broken}", str(error)) from None
    if not done:
        raise KernelError(f"This STEP file cannot be read: {broken}")
    free = Sequence_TDF_Label()
    XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).GetFreeShapes(free)
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    found: list[Incoming] = []
    surfaces = count = 0
    different: ShapeMap[bool] = ShapeMap()
    for i in range(1, free.Length() + 1):
        for shape, name, label in _placed(free.Value(i), TopLoc_Location(), "", 0):
            bodies = solids(shape)
            surfaces += 0 if bodies else len(faces(shape))
            for body in bodies:
                first, count = count, count + len(faces(body))
                different.put(body.Located(TopLoc_Location()), True)
                if len(found) >= SOLIDS or count > FACES:
                    raise KernelError(
                        f"This file holds more than {SOLIDS} bodies or {FACES:,} faces; export the one part you need."
                    )
                found.append(Incoming(_sound(body, step, first), name, _colour(colours, label)))
    if found and len(different) < promised:
        raise KernelError(
            f"Of {promised} bodies in this file only {len(different)} can be read; the others are broken. Mend them "
            "where they were made, or export the one part you need."
        )
    if not found:
        raise KernelError(
            f"This file holds {surfaces} loose surfaces but no closed solid; close them where they were made."
            if surfaces
            else "There is no solid in this file."
        )
    return Contents(found, surfaces)


def _placed(label: TDF_Label, at: TopLoc_Location, name: str, depth: int) -> Iterator[tuple[Shape, str, TDF_Label]]:
    """Every shape of an assembly where it stands, with the name nearest to it."""
    own = _name(label) or name
    if depth > 30:
        raise KernelError("The assemblies of this STEP file hold each other without end.")
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        parts = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(label, parts)
        for i in range(1, parts.Length() + 1):
            part, meant = parts.Value(i), TDF_Label()
            if XCAFDoc_ShapeTool.GetReferredShape_s(part, meant):
                yield from _placed(
                    meant, at.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(part)), _name(part) or own, depth + 1
                )
        return
    yield XCAFDoc_ShapeTool.GetShape_s(label).Moved(at), own, label


def _name(label: TDF_Label) -> str:
    found: Any = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), found):
        return ""
    text = "".join(ch for ch in found.Get().ToExtString() if ch.isprintable()).strip()
    return text[:120]


def _colour(tool: Any, label: TDF_Label) -> str:
    found = Quantity_Color()
    for kind in (XCAFDoc_ColorGen, XCAFDoc_ColorSurf):
        if tool.GetColor_s(label, kind, found):
            r, g, b = (round(255 * min(1.0, max(0.0, float(v)))) for v in found.Values(Quantity_TOC_sRGB))
            return f"#{r:02x}{g:02x}{b:02x}"
    return ""


def _sound(body: Shape, step: str, first: int) -> Solid:
    """A body out of a file as a solid of ours, if it is one."""
    lo, hi = box(body)
    if not all(math.isfinite(v) and abs(v) <= REACH for v in (*lo, *hi)):
        raise KernelError("A body of this file lies farther out than a kilometre; that is no part.")
    tags: ShapeMap[Tags] = ShapeMap()
    for i, face in enumerate(faces(body)):
        tags.put(face, frozenset({f"{step}/face/f{first + i + 1}"}))
    try:
        return checked(Solid(body, tags), "file")
    except KernelError as error:
        raise KernelError(
            "A body of this file is not sound (open, inside out or crossing itself); mend it where it was made.",
            error.cause,
        ) from None
