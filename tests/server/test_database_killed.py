"""kill -9 of PostgreSQL under a Sulvak started as a person would start it, in a state folder of its own."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from tools.places import ROOT
from tools.postgres import free_port

from tests.conftest import PASSWORD, Client, Part, Service


class Started(Service):
    """Sulvak by its own command, on another state folder than the one the tests run on."""

    def __init__(self, folder: Path) -> None:
        self.state = folder
        self.signed = {}
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        keep = {k: v for k, v in os.environ.items() if k not in ("DATABASE_URL", "SULVAK_SECRET_KEY")}
        self.env = {**keep, "SULVAK_STATE": str(folder)}

    def sulvak(self, *words: str) -> None:
        subprocess.run([str(ROOT / "sulvak"), *words], env=self.env, cwd=ROOT, check=True, timeout=240)

    def postmaster(self) -> int:
        return int((self.state / "postgres" / "data" / "postmaster.pid").read_text().split()[0])


@pytest.fixture
def started() -> Iterator[Started]:
    folder = Path(tempfile.mkdtemp(prefix="sulvak-state-"))
    folder.chmod(0o711)  # PostgreSQL runs as another user and must reach its own folder in here
    made = Started(folder)
    try:
        made.sulvak("start", "--port", str(made.port))
        yield made
    finally:
        made.sulvak("stop")
        shutil.rmtree(folder)


@pytest.mark.kills
def test_killing_postgresql_keeps_every_acknowledged_change(started: Started) -> None:
    wren = Client(started)
    part = wren.new_part("Outlives")
    part.block()
    part.built()
    for n in range(5):
        part.do(do="set_part", changes={"description": f"change {n}"})
    killed = started.postmaster()
    os.kill(killed, signal.SIGKILL)
    # while it is gone the answer is a sentence, not a page of errors
    status, answer = part.send(do="set_part", changes={"description": "into the gap"})
    assert status in (200, 503)
    signing_in, said = wren.post("/api/sign-in", {"name": "wren", "password": PASSWORD})
    assert signing_in in (200, 503)
    for met, words in ((status, answer), (signing_in, said)):
        if met == 503:
            assert "database does not answer" in words["sentence"]
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline and wren.get(part.path)[0] != 200:
        time.sleep(0.2)
    again = Part(wren, part.id)
    assert started.postmaster() != killed
    assert again.now["document"]["description"] in ("change 4", "into the gap")
    if status == 200:
        assert again.now["document"]["description"] == "into the gap"
    again.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "25"}})
    assert again.built(60)["mass"]["volume"] == pytest.approx(40 * 30 * 25)
    assert again.travel("undo") == 200
    assert again.now["document"]["steps"][1]["extent"]["depth"] == "10"
