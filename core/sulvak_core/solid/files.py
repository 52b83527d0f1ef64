"""Solids written to files by the kernel: STEP (AP214, AP242) with names, colours, materials, validation properties.

Validation properties (volume, surface, centroid; recommended practices of the CAx-IF) let whoever reads the file check
that the solid arrived as it was sent.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from OCP.APIHeaderSection import APIHeaderSection_MakeHeader
from OCP.gp import gp_Pnt
from OCP.Interface import Interface_Static
from OCP.Message import Message, Message_PrinterOStream, Message_ProgressRange
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Controller, STEPControl_Reader
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import (
    XCAFDoc_Area,
    XCAFDoc_Centroid,
    XCAFDoc_ColorGen,
    XCAFDoc_DocumentTool,
    XCAFDoc_Volume,
)

from ..part.units import LengthUnit
from .frame import XYZ
from .shapes import KernelError, Shape, solids, volume
from .step_order import in_order


@dataclass
class NamedShape:
    """A solid with the name and colour (``#rrggbb``) it carries into a file; its material with the density in g/cm³,
    and what a reader can check: volume (mm³), surface (mm²) and centroid (mm)."""

    shape: Shape
    name: str
    colour: str
    material: str = ""
    density: float | None = None
    volume: float | None = None
    area: float | None = None
    centre: XYZ | None = None


Schema = Literal["AP214", "AP242"]
SCHEMAS: dict[Schema, str] = {"AP214": "AP214IS", "AP242": "AP242DIS"}
MATERIAL = "SULVAK-MATERIAL"
TITLE, DESCRIPTION, NAME = "SULVAK-TITLE", "SULVAK-DESCRIPTION", "SULVAK-NAME"  # stand in until the file is text


def part21(text: str) -> str:
    """A string in quotes as ISO 10303-21 writes it: apostrophes and backslashes doubled, what is not ASCII escaped."""
    out = []
    for ch in text:
        if ch in "'\\":
            out.append(ch * 2)
        elif " " <= ch <= "~":
            out.append(ch)
        elif ch <= "\uffff":
            out.append(f"\\X2\\{ord(ch):04X}\\X0\\")
        else:
            out.append(f"\\X4\\{ord(ch):08X}\\X0\\")
    return f"'{''.join(out)}'"


def step_bytes(
    items: list[NamedShape],
    title: str,
    description: Sequence[str] = (),
    schema: Schema = "AP214",
    unit: LengthUnit = "mm",
    written: str = "",
) -> bytes:
    """A STEP file of the solids, each with its name, colour and what it can be checked by, lengths in ``unit``.

    ``title`` becomes the file's name, ``description`` the lines of its description. ``written``: the time that it says
    of itself (``2031-05-12T08:30:00``), and then the same solids give the same bytes; empty for now.
    """
    document = TDocStd_Document(TCollection_ExtendedString("sulvak"))
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    materials = XCAFDoc_DocumentTool.MaterialTool_s(document.Main())
    for k, item in enumerate(items):
        label = shapes.AddShape(item.shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(f"{NAME}-{k}."))
        r, g, b = (int(item.colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        colours.SetColor(label, Quantity_Color(r, g, b, Quantity_TOC_sRGB), XCAFDoc_ColorGen)
        if item.volume is not None:
            XCAFDoc_Volume.Set_s(label, item.volume)
        if item.area is not None:
            XCAFDoc_Area.Set_s(label, item.area)
        if item.centre is not None:
            XCAFDoc_Centroid.Set_s(label, gp_Pnt(*item.centre))
        if item.material and item.density is not None:
            named = (TCollection_HAsciiString(t) for t in ("", "density measure", "POSITIVE_RATIO_MEASURE"))
            said, what, kind = named
            materials.SetMaterial(label, TCollection_HAsciiString(f"{MATERIAL}-{k}."), said, item.density, what, kind)
    STEPControl_Controller.Init_s()  # what is set before the first of them would be set back by it
    Interface_Static.SetCVal_s("write.step.schema", SCHEMAS[schema])
    Interface_Static.SetCVal_s("write.step.unit", {"mm": "MM", "in": "INCH"}[unit])
    Interface_Static.SetCVal_s("write.step.product.name", TITLE)
    _quiet()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    writer.SetPropsMode(True)
    writer.SetMaterialMode(True)
    if not writer.Transfer(document, STEPControl_AsIs, None, Message_ProgressRange()):
        raise KernelError("The part could not be written as STEP.", "transfer failed")
    header = APIHeaderSection_MakeHeader(writer.ChangeWriter().Model())
    header.SetName(TCollection_HAsciiString(TITLE))
    if written:
        header.SetTimeStamp(TCollection_HAsciiString(written))
    header.SetDescriptionValue(1, TCollection_HAsciiString(DESCRIPTION))
    header.SetAuthorValue(1, TCollection_HAsciiString(""))
    header.SetOrganizationValue(1, TCollection_HAsciiString(""))
    header.SetOriginatingSystem(TCollection_HAsciiString("Sulvak"))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        writer.Write(str(path))
        if not path.exists():
            raise KernelError("The part could not be written as STEP.", "no file")
        text = path.read_text("latin-1")
    text = text.replace(f"'{TITLE}'", part21(title), 1)
    for k, item in enumerate(items):  # the kernel itself writes what is not ASCII as bytes that no reader must know
        text = text.replace(f"'{NAME}-{k}.'", part21(item.name))
        text = text.replace(f"'{MATERIAL}-{k}.'", part21(item.material))
    text = text.replace(f"'{DESCRIPTION}'", ",".join(part21(d) for d in description) or "''", 1)
    return (in_order(text) if written else text).encode("latin-1")


def _quiet() -> None:
    """The kernel prints statistics to standard output, where our own figures go; switch that off."""
    messenger = Message.DefaultMessenger_s()
    messenger.RemovePrinters(Message_PrinterOStream.get_type_descriptor_s())


def step_volumes(data: bytes) -> list[float]:
    """Volumes in mm³ of the solids in a STEP file of our own; for checking what was written.

    Not for files from outside: the reader has no limits of its own.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        path.write_bytes(data)
        reader = STEPControl_Reader()
        reader.ReadFile(str(path))
        reader.TransferRoots()
        return [volume(s) for s in solids(reader.OneShape())]
