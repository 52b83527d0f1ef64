"""Solids read from STEP files of others. The kernel's reader trusts what it reads; what it must not see is kept from
it, and what it made is looked at before anybody uses it.

Only for processes with limits on time and memory: the reader can still crash on files nobody has thought of.
"""

from __future__ import annotations

import math
import re
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
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
    XCAFDoc_Volume,
)

from ..part.units import told
from .files import _quiet
from .measure import box
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, solids

LARGEST = 30_000_000  # bytes
DEEPEST = 40  # parentheses within each other; real files stay under ten
RECORDS = 1_500_000
SOLIDS = 200
FACES = 50_000
AGREES = 1e-4  # share of a volume by which a file and what is read of it may differ
REACH = 1e6  # mm: what lies farther out is no part
NUMBER = re.compile(rb"(?<![A-Za-z0-9_'\"])[+-]?(?:nan|inf|infinity)(?![A-Za-z0-9_])", re.IGNORECASE)
HUGE = re.compile(rb"[0-9.]E\+?0*[1-9][0-9]{2,}", re.IGNORECASE)  # written with three digits they may be small
QUOTED = re.compile(rb"'(?:[^']|'')*'")
BREP = re.compile(rb"=\s*(?:\(.{0,400}?)?\b(?:MANIFOLD_SOLID_BREP|BREP_WITH_VOIDS|FACETED_BREP)\s*\(", re.DOTALL)
RECORD = re.compile(rb"(?:^|[;\s])#\s*0*(\d+)\s*=")
ELSEWHERE = re.compile(rb"\bDOCUMENT_FILE\s*\(\s*'((?:[^']|'')*)'")
# names that programs give where nobody has: they say nothing of the body
SILENT = re.compile(
    r"(none|null|unnamed|default|nauo|solid|solids|body|bodies|part|shape|brep|lump|volume|component|compound|assembly"
    r"|import(ed)?|manifold.*|open cascade.*|=>.*|)[\W_]*\d*",
    re.IGNORECASE,
)
COMMENT = re.compile(rb"/\*.*?\*/", re.DOTALL)


@dataclass
class Incoming:
    """A solid out of a file, with the name and colour (``#rrggbb``) it has there; empty where it has none."""

    solid: Solid
    name: str = ""
    colour: str = ""


@dataclass
class Contents:
    """What a file holds: its solids, and how many ``loose`` surfaces that belong to none. ``doubts``: where what was
    read is not what the file says it is, by its validation properties, in sentences; ``vouched``: how many of its
    shapes it says something of that agrees."""

    bodies: list[Incoming]
    loose: int = 0
    doubts: list[str] = field(default_factory=list)
    vouched: int = 0


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
    numbers = RECORD.findall(bare)
    if len(set(numbers)) < len(numbers):
        twice = next(n for n, count in Counter(numbers).items() if count > 1)
        raise KernelError(
            f"This STEP file has two records #{twice.decode()}, and nobody can say which is meant. Write it again "
            "where it was made."
        )
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
    if not promised and (others := _others(data)):
        raise KernelError(f"The geometry of this file lies in other files ({others}); bring those, one by one.")
    _quiet()
    broken = "its geometry is broken." if promised else "there is no solid in it."
    document = TDocStd_Document(TCollection_ExtendedString("incoming"))
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    reader.SetPropsMode(True)
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
    contents = Contents(found)
    used: Counter[str] = Counter()
    for i in range(1, free.Length() + 1):
        for shape, names, label in _placed(free.Value(i), TopLoc_Location(), (), 0):
            bodies = solids(shape)
            surfaces += 0 if bodies else len(faces(shape))
            for body in bodies:
                first, count = count, count + len(faces(body))
                different.put(body.Located(TopLoc_Location()), True)
                if len(found) >= SOLIDS or count > FACES:
                    raise KernelError(
                        f"This file holds more than {SOLIDS} bodies or {FACES:,} faces; export the one part you need."
                    )
                called = next((n for n in (_own_name(reader, body), *names) if not SILENT.fullmatch(n)), "")
                used[called] += bool(called)
                name = f"{called} {used[called]}" if used[called] > 1 else called
                found.append(Incoming(_sound(body, step, first), name, _colour(colours, label)))
            if bodies:
                _vouched(contents, label, names[0] if names else "", found[-len(bodies) :])
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
    contents.loose = surfaces
    return contents


def _vouched(contents: Contents, label: TDF_Label, name: str, read: list[Incoming]) -> None:
    """Hold what was read of a shape against the volume that the file itself gives of it."""
    said: Any = XCAFDoc_Volume()
    if not label.FindAttribute(XCAFDoc_Volume.GetID_s(), said):
        return
    promised, volume = float(said.Get()), sum(m.solid.volume() for m in read)
    # a file may say it in its own unit: in inches or metres it is the same volume
    if any(abs(promised * k - volume) <= AGREES * abs(volume) for k in (1.0, 25.4**3, 1000.0**3)):
        contents.vouched += 1
        return
    what = f"“{name}”" if name and not SILENT.fullmatch(name) else "a body"
    contents.doubts.append(f"The file says that {what} has {told(promised, 3)}; read were {told(volume, 3)}.")


def _others(data: bytes) -> str:
    """The names of other files that a file speaks of, as a list in words."""
    names = list(dict.fromkeys(m[1].decode("latin-1").replace("''", "'") for m in ELSEWHERE.finditer(data)))
    shown = ["".join(ch for ch in n if ch.isprintable())[:60] for n in names[:3] if n.strip()]
    return ", ".join(shown) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _own_name(reader: Any, body: Shape) -> str:
    """The name a solid itself has in the file; empty where it has none."""
    try:
        entity = reader.ChangeReader().WS().TransferReader().EntityFromShapeResult(body.Located(TopLoc_Location()), -1)
        return _printable(entity.Name().ToCString())
    except Exception:  # what it was made of is not always known
        return ""


def _placed(
    label: TDF_Label, at: TopLoc_Location, above: tuple[str, ...], depth: int
) -> Iterator[tuple[Shape, tuple[str, ...], TDF_Label]]:
    """Every shape of an assembly where it stands, with the names it goes by, the nearest first."""
    names = (_name(label), *above)
    if depth > 30:
        raise KernelError("The assemblies of this STEP file hold each other without end.")
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        parts = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(label, parts)
        for i in range(1, parts.Length() + 1):
            part, meant = parts.Value(i), TDF_Label()
            if XCAFDoc_ShapeTool.GetReferredShape_s(part, meant):
                yield from _placed(
                    meant, at.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(part)), (_name(part), *names), depth + 1
                )
        return
    yield XCAFDoc_ShapeTool.GetShape_s(label).Moved(at), names, label


def _name(label: TDF_Label) -> str:
    found: Any = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), found):
        return ""
    return _printable(found.Get().ToExtString())


def _printable(text: str) -> str:
    return "".join(ch for ch in text if ch.isprintable()).strip()[:120]


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
