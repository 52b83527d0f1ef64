"""Sulvak from Python: open a part file, set values, build, measure, prove, weigh, draw, export, release.

    >>> import sulvak
    >>> part = sulvak.open("demo/cross-plate.json")
    >>> part.name, part.values["span"]
    ('Cross plate', '90')
    >>> longer = part.set(span="120")
    >>> round(longer.build().grams, 2)
    54.85

A ``Part`` is a document and never changes: ``set`` and ``do`` give another. ``build`` gives a ``Built``, which tells
and writes. Lengths are in mm, angles in degrees, masses in g. What cannot be done raises ``Refusal`` with a sentence.
"""

from .family import family
from .part import Built, Part, Refusal, new, open

__all__ = ["Built", "Part", "Refusal", "family", "new", "open"]
