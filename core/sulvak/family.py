"""A family of parts: one part at every row of a table."""

from __future__ import annotations

import csv
import os
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

from sulvak_core.part.errors import Refusal

from .part import Part

NUMBER = "number"  # the column that gives each part its number


def family(part: Part, table: str | os.PathLike[str] | Iterable[Mapping[str, str]]) -> Iterator[Part]:
    """The part at every row of a table: a CSV file (its first line names the columns) or dictionaries. A column is the
    name of a size; ``number`` and ``name`` are the part's own. Raises Refusal, naming the row."""
    rows = _read(Path(os.fspath(table))) if isinstance(table, str | os.PathLike) else table
    for n, row in enumerate(rows, 2):
        try:
            told = {k: v.strip() for k, v in row.items() if k and v is not None and v.strip()}
            own = {k: told.pop(k) for k in (NUMBER, "name") if k in told}
            made = part.set(told)
            yield made.do("set_part", changes=own) if own else made
        except Refusal as refusal:
            raise Refusal(f"Row {n}: {refusal.sentence}") from None


def _read(path: Path) -> Iterator[Mapping[str, str]]:
    with path.open(newline="", encoding="utf-8-sig") as file:
        yield from csv.DictReader(file)
