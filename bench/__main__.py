"""Measures rows, all or those named, and puts each into the table of docs/benchmarks.md as soon as it is measured; what
is said below the table stays."""

from __future__ import annotations

import datetime
import os
import platform
import sys
from collections.abc import Callable
from pathlib import Path

from tests.service import drop_template

from . import drawing, growth, making, meshes, screen, sheet, sketch, solid, strange, weighing

PAGE = Path(__file__).resolve().parent.parent / "docs" / "benchmarks.md"
ROOMS = (sketch, solid, strange, sheet, weighing, making, drawing, meshes, growth, screen)
ROWS: dict[str, Callable[[], str]] = {
    f"{room.__name__.rpartition('.')[2]}.{row.__name__}": row for room in ROOMS for row in room.ROWS
}
HEAD = f"""# Measured speed

Made by `./sulvak bench`: {os.cpu_count()} cores ({platform.machine()}), Python {platform.python_version()}. Medians;
both sides of a ratio in the same run. Each row says when it was measured; `./sulvak bench solid.pattern_cut` measures
one. How a row is measured stands in `bench/`.

| row | what | must reach | aim | measured | on |
|---|---|---|---|---|---|
"""
FOOT = """
The rows on screen are taken in
Chromium without a graphics processor, web server and worker on the same machine.
"""


def main(names: list[str]) -> int:
    unknown = [n for n in names if n not in ROWS]
    if unknown:
        print(f"No such row: {', '.join(unknown)}. There are: {', '.join(ROWS)}.", file=sys.stderr)
        return 2
    try:
        for name in names or ROWS:
            what, must, aim = " ".join((ROWS[name].__doc__ or "").split()).split(" | ")
            print(f"{name}: {what} …", flush=True)
            measured = ROWS[name]()
            print(f"  {measured}   (must {must}, aim {aim})", flush=True)
            PAGE.write_text(with_row(PAGE.read_text(), [name, what, must, aim, measured, str(datetime.date.today())]))
    finally:
        drop_template()
    return 0


def with_row(page: str, cells: list[str]) -> str:
    """The page with one row of its table measured anew; rows that are no longer there go."""
    table, heading, below = page.partition("\n## ")
    known = {line.split(" | ")[0].removeprefix("| "): line for line in table.splitlines() if line.startswith("| ")}
    known[cells[0]] = f"| {' | '.join(cells)} |"
    return HEAD + "\n".join(known[name] for name in ROWS if name in known) + "\n" + FOOT + heading + below


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
