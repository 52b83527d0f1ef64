"""What a report says besides sizes: the mass with where it lies, and the checks of the shop."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, LongTable, Spacer, TableStyle

from ..part.units import MM_PER, mass_text, number
from ..steps.registry import Document
from .report_pdf import HAIR, PENCIL, PROOF, RED, paragraph

_LINED = TableStyle(
    [
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, HAIR),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ]
)
TOLD = 12  # findings of a check


def mass_section(document: Document, weighed: Mapping[str, Any]) -> list[Flowable]:
    """A table of the whole and its bodies. ``weighed`` as ``inspect.mass.mass`` gives it."""
    k, unit = MM_PER[document.unit], document.unit
    head = ("", "material", "mass", f"volume, {unit}³", f"surface, {unit}²", f"centre of mass, {unit}")
    body = [[paragraph(h, 7.5, PENCIL) for h in head]]
    whole = {**weighed, "title": "the part", "material": document.material}
    for row in [whole, *(weighed["bodies"] if len(weighed["bodies"]) > 1 else [])]:
        grams = row["mass"]
        cells = (
            row["title"],
            row["material"],
            "" if grams is None else mass_text(grams, document.mass_unit, 6),
            number(row["volume"] / k**3, 4),
            number(row["area"] / k**2, 4),
            ", ".join(number(v / k, 4) for v in row["centre"]),
        )
        body.append([paragraph(c, 8) for c in cells])
    found: list[Flowable] = [Spacer(1, 5 * mm), paragraph("Mass", 10)]
    target = weighed["target"]
    if target:
        said = f"target {mass_text(target['grams'], document.mass_unit, 6)} ±{number(target['tolerance'], 4)} g"
        tone = {True: PROOF, False: RED, None: PENCIL}[weighed["within"]]
        found.append(paragraph(f"{said}: {'within' if weighed['within'] else 'not within'}", 8, tone))
    widths = [c * mm for c in (40, 62, 30, 42, 42, 53)]
    return [*found, LongTable(body, colWidths=widths, repeatRows=1, style=_LINED)]


def checks_section(checks: Sequence[tuple[str, bool, Sequence[str]]]) -> list[Flowable]:
    """What each check of the shop came to: its name, whether it passed, what it found."""
    if not checks:
        return []
    body = []
    for name, passed, said in checks:
        more = [f"and {len(said) - TOLD} more"] if len(said) > TOLD else []
        words = "; ".join([*said[:TOLD], *more])
        verdict = paragraph("passed" if passed else "not passed", 8, PROOF if passed else RED)
        body.append([paragraph(name, 8), verdict, paragraph(words, 8)])
    table = LongTable(body, colWidths=[c * mm for c in (30, 26, 213)], style=_LINED)
    return [Spacer(1, 5 * mm), paragraph("Checks of the shop", 10), table]
