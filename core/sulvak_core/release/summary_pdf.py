"""One page that sums a release up: whose part it is, what it weighs, what holds, which files there are."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ..exchange.report_pdf import HAIR, INK, PENCIL, PROOF, RED, paragraph, plain
from ..part.units import MM_PER, number

EDGE = 16 * mm
WIDE = A4[0] - 2 * EDGE


def summary_pdf(told: Mapping[str, Any]) -> bytes:
    """The page, from a pack's manifest (without its list of files). The same again gives the same bytes."""
    part, figures = told["part"], told["figures"]
    out = io.BytesIO()
    title = plain(f"{part['number']} {part['name']} revision {part['revision']}".strip())
    made = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=EDGE, rightMargin=EDGE, topMargin=EDGE, bottomMargin=EDGE, title=title,
        author=plain(told["released"]["by"]), invariant=1,
    )  # fmt: skip
    k = MM_PER[part["unit"]]
    low, high = figures["box"]
    size = " × ".join(number((b - a) / k, 3) for a, b in zip(low, high, strict=True))
    target = figures["target"]
    weight = f"{figures['mass']:.3f} g" if figures["mass"] is not None else "not known"
    aim = f" (target {number(target['grams'], 3)} ±{number(target['tolerance'], 3)} g)" if target else ""
    stated = [
        ("owner", part["owner"]),
        ("material", part["material"]),
        ("released", f"{told['released']['at']} by {told['released']['by']}"),
        ("size", f"{size} {part['unit']}"),
        ("volume", f"{number(figures['volume'] / k**3, 4)} {part['unit']}³"),
        ("mass", f"{weight}{aim}"),
        ("callouts", f"{told['callouts']['proven']} of {told['callouts']['of']} proven"),
        ("drawing", f"{told['drawing']['paper']}, {told['drawing']['scale']}, {told['drawing']['sizes']} sizes"),
        *part["properties"].items(),
    ]
    story: list[Any] = [
        paragraph(title, 17),
        Spacer(1, 2 * mm),
        paragraph(part["description"], 9, PENCIL),
        Spacer(1, 5 * mm),
        Table(
            [[paragraph(a, 8, PENCIL), paragraph(b, 9)] for a, b in stated],
            colWidths=[28 * mm, WIDE - 28 * mm],
            style=_LINED,
        ),
        Spacer(1, 6 * mm),
        paragraph("What holds", 11),
        Spacer(1, 1 * mm),
        Table([_condition(c) for c in told["conditions"]], colWidths=[18 * mm, 58 * mm, WIDE - 76 * mm], style=_LINED),
        Spacer(1, 6 * mm),
        paragraph("What each file is, and the digest it is known by, stands in manifest.json.", 8, PENCIL),
    ]
    made.build(story)
    return out.getvalue()


def _condition(c: Mapping[str, Any]) -> list[Paragraph]:
    said = c["said"] if c["holds"] else f"{c['said']}. Released all the same: {c['reason']}"
    return [
        paragraph("holds" if c["holds"] else "open", 8, PROOF if c["holds"] else RED),
        paragraph(c["what"], 8),
        paragraph(said, 8, INK if c["holds"] else RED),
    ]


_LINED = TableStyle(
    [
        ("LINEBELOW", (0, 0), (-1, -1), 0.25, HAIR),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ]
)
