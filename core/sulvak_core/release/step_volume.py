"""The volume (mm³) of the solids in a STEP file on standard input, printed: a process of its own, since the kernel's
reader can die of a file."""

from __future__ import annotations

import subprocess
import sys
from math import fsum

from ..part.errors import Refusal

SECONDS = 120


def step_volume(data: bytes) -> float:
    """The volume in mm³ of the solids in a STEP file. Raises Refusal for one that cannot be read."""
    try:
        done = subprocess.run(
            [sys.executable, "-m", "sulvak_core.release.step_volume"],
            input=data,
            capture_output=True,
            timeout=SECONDS,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise Refusal("reading it takes beyond all time.") from None
    words = done.stdout.decode().strip()
    if done.returncode == 0 and words:
        return float(words)
    raise Refusal(words or "the kernel died of it.")


def main() -> int:
    from ..solid.incoming import read_step
    from ..solid.shapes import KernelError

    try:
        found = read_step(sys.stdin.buffer.read(), "s1")
    except KernelError as error:
        print(error.sentence)
        return 1
    if found.doubts:
        print(found.doubts[0])
        return 1
    print(repr(fsum(b.solid.volume() for b in found.bodies)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
