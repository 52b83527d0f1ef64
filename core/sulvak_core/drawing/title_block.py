"""Frame, title block (ISO 7200), notes and the sign of the angle of projection (ISO 5456-2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..solid.project import Flat
from .paper import EDGE, XY, Box, Ink, Stroke, Word

WIDTH, HEIGHT = 170.0, 34.0
ROWS = (12.0, 11.0, 11.0)  # from the top
LABEL, VALUE, NAME = 2.0, 3.2, 4.2
NOTE, NOTES_APART = 3.2, 5.0
# what stands in each row: label and width (mm)
CELLS: tuple[tuple[tuple[str, float], ...], ...] = (
    (("TITLE", 100.0), ("NUMBER", 48.0), ("REVISION", 22.0)),
    (("MATERIAL", 78.0), ("MASS", 32.0), ("SCALE", 22.0), ("SHEET", 38.0)),
    (("OWNER", 78.0), ("GENERAL TOLERANCE", 54.0), ("PROJECTION", 38.0)),
)


@dataclass(frozen=True)
class Titles:
    """What the title block says, by its labels."""

    title: str
    number: str = ""
    revision: str = ""
    material: str = ""
    mass: str = ""
    scale: str = ""
    sheet: str = ""
    owner: str = ""
    general_tolerance: str = ""


def frame(size: XY) -> Box:
    """The frame's box on a paper of this size."""
    return EDGE, EDGE, size[0] - EDGE, size[1] - EDGE


def block_box(size: XY) -> Box:
    """The title block's, in the lower right corner of the frame."""
    _, low, right, _ = frame(size)
    return right - WIDTH, low, right, low + HEIGHT


def furniture(size: XY, titles: Titles, third: bool) -> Ink:
    """Frame and title block."""
    ink = Ink()
    ink.rect("FRAME", frame(size))
    left, low, right, high = block_box(size)
    ink.rect("FRAME", (left, low, right, high))
    y = high
    for cells, tall in zip(CELLS, ROWS, strict=True):
        x = left
        for i, (label, wide) in enumerate(cells):
            if i:
                ink.line("TABLE", (x, y), (x, y - tall))
            ink.words.append(Word(label, (x + 1.5, y - 3.2), LABEL, 0.0, "start"))
            value = getattr(titles, label.lower().replace(" ", "_"), "")
            size_ = NAME if label == "TITLE" else VALUE
            room = int((wide - 3) / (0.6 * size_))
            shown = value if len(value) <= room else value[: room - 1] + "…"
            if shown:
                ink.words.append(Word(shown, (x + 1.5, y - tall + 2.4), size_, 0.0, "start"))
            x += wide
        y -= tall
        if y > low + 1:
            ink.line("TABLE", (left, y), (right, y))
    _projection(ink, (right - 19.0, low + 4.4), third)
    return ink


def _projection(ink: Ink, at: XY, third: bool) -> None:
    """A truncated cone and its small end, on the side where the angle of projection puts it."""
    x, y = at
    end, cone = (x - 7.5, x + 1.0) if third else (x + 7.0, x - 10.0)
    for r in (2.8, 1.4):
        ink.strokes.append(Stroke("TABLE", Flat("circle", {"c": (end, y)}, r)))
    corners = [(cone, y - 1.4), (cone + 8, y - 2.8), (cone + 8, y + 2.8), (cone, y + 1.4)]
    for i in range(4):
        ink.line("TABLE", corners[i], corners[(i + 1) % 4])
    ink.line("CENTRE", (x - 12.0, y), (x + 12.0, y))


def notes_box(size: XY, notes: Sequence[str]) -> Box:
    """Where the notes stand, in the upper left corner of the frame."""
    left, _, _, high = frame(size)
    wide = max((len(n) for n in notes), default=0) * 0.6 * NOTE
    return left + 4, high - 4 - NOTES_APART * len(notes), left + 4 + wide, high - 3


def written_notes(size: XY, notes: Sequence[str]) -> Ink:
    """The notes, one under the other."""
    left, _, _, high = notes_box(size, notes)
    return Ink(words=[Word(n, (left, high - 4 - NOTES_APART * i), NOTE, 0.0, "start") for i, n in enumerate(notes)])
