"""All that an installation holds in one file, and back: a dump of the database in PostgreSQL's own open form."""

from __future__ import annotations

import os
import subprocess
import tarfile
import tempfile
from pathlib import Path

from . import postgres
from .places import Trouble, secret, state

DUMP, KEY = "sulvak.dump", "secret-key"
SKIPPED = ("kernel_artifact", "procrastinate_jobs", "procrastinate_events")  # made again, or of no use elsewhere


def _tool(name: str, *arguments: str) -> None:
    env = {**os.environ, "PGPASSWORD": secret("postgres-password")}
    where = ["-h", "127.0.0.1", "-p", str(postgres.port()), "-U", postgres.USER]
    done = subprocess.run(
        [postgres.program(name), *where, *arguments], env=env, capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise Trouble(f"{name} did not work: {(done.stderr.strip().splitlines() or ['no reason given'])[-1]}")


def write(file: Path, secrets: bool) -> None:
    """The whole database, what can be made again left out, into ``file``; raises Trouble with a sentence."""
    if not file.parent.is_dir():
        raise Trouble(f"There is no folder {file.parent}.")
    with tempfile.TemporaryDirectory() as folder:
        dump = Path(folder) / DUMP
        left_out = [f"--exclude-table-data={name}" for name in SKIPPED]
        _tool("pg_dump", "-Fc", *left_out, "-f", str(dump), "sulvak")
        part = file.with_suffix(file.suffix + ".part")
        try:
            with tarfile.open(part, "w") as pack:
                pack.add(dump, DUMP)
                if secrets:
                    pack.add(state() / KEY, KEY)
            part.chmod(0o600)
            part.replace(file)
        except OSError as error:
            part.unlink(missing_ok=True)
            raise Trouble(f"{file} cannot be written: {error.strerror}.") from None


def read(file: Path, over: bool) -> None:
    """Put a backup in the place of the database. It is read into one of its own first: what cannot be read changes
    nothing."""
    count = int(postgres.asked("sulvak", "SELECT count(*) FROM parts_partrecord") or 0)  # empty: no such table yet
    if count and not over:
        raise Trouble(f"There are {count} parts here already; say --yes to put the backup in their place.")
    with tempfile.TemporaryDirectory() as folder:
        try:
            with tarfile.open(file) as pack:
                names = pack.getnames()
                if DUMP not in names or not set(names) <= {DUMP, KEY}:
                    raise Trouble(f"{file} is no backup of Sulvak's.")
                pack.extractall(folder, filter="data")
        except (OSError, tarfile.TarError):
            raise Trouble(f"{file} cannot be read as a backup.") from None
        postgres.make("sulvak_restored")
        try:
            _tool("pg_restore", "--no-owner", "-d", "sulvak_restored", str(Path(folder) / DUMP))
        except Trouble:
            postgres.drop("sulvak_restored")
            raise
        postgres.drop("sulvak")
        postgres.rename("sulvak_restored", "sulvak")
        key = Path(folder) / KEY
        if key.exists():
            secret(KEY)
            (state() / KEY).write_text(key.read_text())
    (state() / "migrated").unlink(missing_ok=True)
