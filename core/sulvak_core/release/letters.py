"""Letters of revisions: A, B, C … without those that are taken for figures or for one another (ASME Y14.35)."""

from __future__ import annotations

LETTERS = "ABCDEFGHJKLMNPRTUVWY"


def is_letter(text: str) -> bool:
    """Whether a revision is one of these: A … Y, AA, AB …"""
    return 1 <= len(text) <= 3 and all(c in LETTERS for c in text)


def next_letter(text: str) -> str:
    """The revision after this one; ``A`` after what is none."""
    if not is_letter(text):
        return "A"
    digits = [LETTERS.index(c) for c in text]
    for k in range(len(digits) - 1, -1, -1):
        digits[k] += 1
        if digits[k] < len(LETTERS):
            return "".join(LETTERS[d] for d in digits)
        digits[k] = 0
    return "A" * (len(text) + 1)
