"""Pages of a PDF sheet as pictures. Run it in a process with limits: files from outside are hostile."""

from __future__ import annotations

import io

import pypdfium2

from ..part.errors import Refusal

LONGEST = 2400  # pixels of a page's longer side, where nothing else is asked for
LARGEST = 9600
PAGES = 200


def opened(data: bytes) -> pypdfium2.PdfDocument:
    """A PDF. Raises Refusal where it is none, damaged, or locked."""
    try:
        return pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError:
        raise Refusal("This PDF cannot be opened; it is damaged or locked with a password.") from None


def page_sizes(data: bytes) -> list[tuple[float, float]]:
    """Width and height of every page in points (1/72 inch)."""
    pdf = opened(data)
    if not 0 < len(pdf) <= PAGES:
        raise Refusal(f"This PDF has {len(pdf)} pages; a sheet has between 1 and {PAGES}.")
    sizes = [(float(w), float(h)) for w, h in (pdf[i].get_size() for i in range(len(pdf)))]
    if any(not 1 <= side <= 20000 for size in sizes for side in size):
        raise Refusal("A page of this PDF has no size that makes sense.")
    return sizes


def page_png(data: bytes, number: int, longest: int = 0) -> bytes:
    """One page as PNG, its longer side ``longest`` pixels (LONGEST where that is 0)."""
    pdf = opened(data)
    if not 0 <= number < len(pdf):
        raise Refusal("This PDF has no such page.")
    page = pdf[number]
    picture = page.render(scale=min(longest or LONGEST, LARGEST) / max(page.get_size())).to_pil()
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
