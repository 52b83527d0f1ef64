"""Knowing one's own processes by more than a number: by what started them, and when."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import time
from collections.abc import Iterator
from pathlib import Path

from .places import state

MARK = "SULVAK_OF"  # in the environment of all that is started, with the state folder it belongs to
_OURS = (
    "tools.supervise",
    "sulvak_server.asgi",
    "manage.py",
    "shop_inbox",
    "multiprocessing",
)  # PostgreSQL is looked after elsewhere


def mark() -> dict[str, str]:
    return {MARK: str(state())}


def _read(pid: int, what: str) -> bytes:
    with contextlib.suppress(OSError):
        return Path(f"/proc/{pid}/{what}").read_bytes()
    return b""


def born(pid: int) -> str:
    """When a process began, in the kernel's ticks; empty for one that is not there any more."""
    stat = _read(pid, "stat").rpartition(b")")[2].split()
    return "" if len(stat) < 20 or stat[0] == b"Z" else stat[19].decode()


def is_ours(pid: int) -> bool:
    """Whether a process was started here, for this state folder."""
    if f"{MARK}={state()}".encode() not in _read(pid, "environ").split(b"\0"):
        return False
    return any(name.encode() in _read(pid, "cmdline") for name in _OURS) and bool(born(pid))


def ours() -> list[int]:
    """All processes of this state folder but the one that asks."""
    every = (int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit())
    return [pid for pid in every if pid != os.getpid() and is_ours(pid)]


def end_all(seconds: float = 12) -> int:
    """End all that runs for this state folder; how many there were. The one that watches goes first, or it would start
    the others again."""
    found = ours()
    watching = [pid for pid in found if b"tools.supervise" in _read(pid, "cmdline")]
    for pid in watching or found:
        _tell(pid, signal.SIGTERM)
    deadline = time.monotonic() + seconds
    while (left := ours()) and time.monotonic() < deadline:
        if not any(pid in watching for pid in left):
            for pid in left:
                _tell(pid, signal.SIGTERM)
        time.sleep(0.1)
    for pid in ours():
        _tell(pid, signal.SIGKILL)
    return len(found)


def _tell(pid: int, what: signal.Signals) -> None:
    if is_ours(pid):
        with contextlib.suppress(ProcessLookupError, PermissionError):
            os.kill(pid, what)


@contextlib.contextmanager
def one_at_a_time() -> Iterator[None]:
    """Held while something is started or stopped, so that two at once come one after the other."""
    with (state() / "lock").open("a") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        yield
