"""Where things are: the checkout, and the state that belongs to it (database, secrets, logs)."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"


def state() -> Path:
    """The folder for database, secrets and logs: SULVAK_STATE, or one of the checkout's own.

    For root it lies outside the checkout, since PostgreSQL refuses to run as root and the user it
    runs as must be able to reach its files.
    """
    named = os.environ.get("SULVAK_STATE")
    if named:
        path = Path(named).resolve()
    elif os.geteuid() == 0:
        path = Path("/var/lib/sulvak") / hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]
    else:
        path = ROOT / ".sulvak"
    path.mkdir(parents=True, exist_ok=True)
    return path


def secret(name: str, length: int = 40) -> str:
    """A secret of this installation, made when first asked for and readable by its owner alone."""
    import secrets

    path = state() / name
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(length))
    return path.read_text()


class Trouble(Exception):
    """Something the person must know; the message is one clear sentence."""


def say(text: str) -> None:
    print(text, flush=True)
