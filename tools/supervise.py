"""Keeps PostgreSQL, web server and worker running: one that ends is started again, a little later each time."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from types import FrameType

from . import postgres
from .places import ROOT, Trouble
from .processes import inbox_command, web_command, worker_command


def tell(line: str) -> None:
    """A line for the log. A disk that takes none is no reason to stop keeping things running."""
    with contextlib.suppress(OSError):
        os.write(1, f"{line}\n".encode())


class Kept:
    """One process that is kept running."""

    def __init__(self, command: list[str], folder: Path = ROOT) -> None:
        self.command, self.folder = command, folder
        self.process: subprocess.Popen[bytes] | None = None
        self.since = 0.0
        self.pause = 0.2
        self.again_at: float | None = None  # its process ended, and when the next is due

    def tend(self) -> None:
        """Start it, or start it again when its pause is over; never waits, so that the others are looked after."""
        if self.process is not None and self.process.poll() is None:
            return
        now = time.monotonic()
        if self.process is not None and self.again_at is None:
            self.pause = 0.2 if now - self.since > 20 else min(self.pause * 2, 10)
            self.again_at = now + self.pause
            tell(f"ended with {self.process.returncode}, starting again: {' '.join(self.command[1:4])}")
        if self.again_at is not None and now < self.again_at:
            return
        self.since, self.again_at = now, None
        self.process = subprocess.Popen(self.command, cwd=self.folder)

    def end(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(8)
        except subprocess.TimeoutExpired:
            self.process.kill()


def _tend_database(waiting: bool) -> bool:
    """Start it again if it is gone; whether it waits for room on the disk."""
    if postgres.running():
        return False
    if postgres.no_room():
        if not waiting:
            tell("PostgreSQL is gone and the disk is full; it starts again when there is room")
        return True
    tell("PostgreSQL is gone, starting it again")
    try:
        postgres.start()
    except Trouble as trouble:  # what is left of the old one may still be in the way: the next look tries again
        tell(str(trouble))
    return False


def main(host: str, port: int) -> None:
    kept = [Kept(web_command(host, port)), Kept(worker_command()), Kept(inbox_command())]
    going = True

    def leave(number: int, frame: FrameType | None) -> None:
        nonlocal going
        going = False

    signal.signal(signal.SIGTERM, leave)
    signal.signal(signal.SIGINT, leave)
    own = os.environ.get("DATABASE_URL") == postgres.url()
    looked, waiting = time.monotonic(), False
    while going:
        for process in kept:
            process.tend()
        if own and time.monotonic() - looked > 1:
            waiting = _tend_database(waiting)
            looked = time.monotonic()
        time.sleep(0.2)
    for process in kept:
        process.end()


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]))
