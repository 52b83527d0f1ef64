"""Measures the rows that are there so far and writes the table of docs/benchmarks.md; what is said below it stays."""

from __future__ import annotations

import datetime
import os
import platform
from pathlib import Path

from tests.service import drop_template

from . import drawing, growth, making, meshes, screen, sheet, sketch, solid, strange, weighing

ROOT = Path(__file__).resolve().parent.parent


def main() -> None:
    rows: list[tuple[str, str, str, str]] = []
    for work in [
        *sketch.ROWS,
        *solid.ROWS,
        *strange.ROWS,
        *sheet.ROWS,
        *weighing.ROWS,
        *making.ROWS,
        *drawing.ROWS,
        *meshes.ROWS,
        *growth.ROWS,
        *screen.ROWS,
    ]:
        name, must, aim = " ".join(work.__doc__.split()).split(" | ")  # type: ignore[union-attr]
        print(f"{name} …", flush=True)
        measured = work()
        print(f"  {measured}   (must {must}, aim {aim})", flush=True)
        rows.append((name, must, aim, measured))
    drop_template()
    table = "\n".join(f"| {' | '.join(r)} |" for r in rows)
    text = f"""# Measured speed

Made by `./sulvak bench` on {datetime.date.today()}: {os.cpu_count()} cores ({platform.machine()}),
Python {platform.python_version()}. Medians; both sides of a ratio in the same run. How each row is
measured stands in `bench/`.

| what | must reach | aim | measured |
|---|---|---|---|
{table}

The rows on screen are taken in
Chromium without a graphics processor, web server and worker on the same machine.
"""
    page = ROOT / "docs" / "benchmarks.md"
    _, heading, rest = page.read_text().partition("\n## ")
    page.write_text(text + heading + rest)


if __name__ == "__main__":
    main()
