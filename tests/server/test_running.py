"""./sulvak itself, on a state folder of its own: started twice, killed, its database killed, stopped, backed up."""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from tools.places import ROOT
from tools.postgres import free_port
from tools.supervise import Kept

from tests.conftest import Client, Part


class Installation:
    """An installation of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.port = folder, free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        kept = {k: v for k, v in os.environ.items() if not k.startswith("SULVAK_") and k != "DATABASE_URL"}
        self.env = {**kept, "SULVAK_STATE": str(folder)}

    def say(self, *words: str, fed: str = "") -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "sulvak", *words]
        return subprocess.run(command, cwd=ROOT, env=self.env, input=fed, capture_output=True, text=True, check=False)

    def start(self, *words: str) -> str:
        done = self.say("start", "--port", str(self.port), *words)
        assert done.returncode == 0, done.stdout + done.stderr
        return done.stdout

    def known(self) -> dict[str, Any]:
        return dict(json.loads((self.folder / "running.json").read_text()))

    def postmaster(self) -> int:
        return int((self.folder / "postgres" / "data" / "postmaster.pid").read_text().split()[0])

    def answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"{self.address}/api/me", timeout=5) as answer:
                return bool(answer.status == 200)
        except OSError:
            return False

    def left(self) -> list[str]:
        """What runs for this installation, by its command line; not the database."""
        mine = f"SULVAK_OF={self.folder}".encode()
        found = []
        for process in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):
                if mine in (process / "environ").read_bytes().split(b"\0"):
                    found.append((process / "cmdline").read_text().replace("\0", " "))
        return [line for line in found if line and "postgres" not in line]

    def client(self, name: str = "wren", password: str | None = None) -> Client:
        made = SimpleNamespace(address=self.address, signed={})
        return Client(made, name) if password is None else Client(made, name, password)  # type: ignore[arg-type]


@pytest.fixture
def here() -> Iterator[Installation]:
    root = Path("/var/lib/sulvak") if os.geteuid() == 0 else ROOT / ".sulvak"
    folder = root / f"test-{os.getpid()}"
    folder.mkdir(parents=True)
    made = Installation(folder)
    yield made
    made.say("stop")
    shutil.rmtree(folder, ignore_errors=True)


PASSWORD = "sedge-and-marram"


def a_person_is_added_without_the_demo(here: Installation) -> Client:
    refused = here.say("start", "--port", str(here.port), "--host", "0.0.0.0")
    assert refused.returncode == 1
    assert "loopback only" in refused.stderr
    here.start("--no-demo")
    place = ("--workspace", "North bank")
    added = here.say("person", "add", "dunlin", *place, "--role", "owner", fed=f"{PASSWORD}\n")
    assert "owner of a new workspace" in added.stdout, added.stderr
    short = here.say("person", "add", "smew", *place, fed="short\n")
    assert short.returncode == 1
    assert "too short" in short.stderr
    dunlin = here.client("dunlin", PASSWORD)
    assert [w["name"] for w in dunlin.get("/api/me")[1]["workspaces"]] == ["North bank"]
    return dunlin


def it_comes_up_again_whatever_became_of_the_last_run(here: Installation) -> None:
    assert "runs already" in here.start("--no-demo")
    os.kill(here.known()["pid"], signal.SIGKILL)  # the one that watches; web server and worker live on
    time.sleep(0.5)
    assert here.answers()
    assert "left of an earlier run is ended" in here.start("--no-demo")
    assert here.answers()


def two_starts_at_once_both_end_well(here: Installation) -> None:
    command = [sys.executable, "sulvak", "start", "--no-demo", "--port", str(here.port)]
    both = [subprocess.Popen(command, cwd=ROOT, env=here.env, stdout=subprocess.DEVNULL) for _ in range(2)]
    assert [p.wait(120) for p in both] == [0, 0]
    assert here.answers()


def killing_postgresql_keeps_every_acknowledged_change(here: Installation, dunlin: Client) -> None:
    part = dunlin.new_part("Outlives")
    part.block()
    part.built()
    for n in range(5):
        part.do(do="set_part", changes={"description": f"change {n}"})
    killed = here.postmaster()
    os.kill(killed, signal.SIGKILL)
    # while it is gone the answer is a sentence, not a page of errors
    status, answer = part.send(do="set_part", changes={"description": "into the gap"})
    assert status in (200, 503)
    signing_in, said = dunlin.post("/api/sign-in", {"name": "dunlin", "password": PASSWORD})
    assert signing_in in (200, 503)
    for met, words in ((status, answer), (signing_in, said)):
        if met == 503:
            assert "database does not answer" in words["sentence"]
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline and dunlin.get(part.path)[0] != 200:
        time.sleep(0.2)
    again = Part(dunlin, part.id)
    assert here.postmaster() != killed
    assert again.now["document"]["description"] in ("change 4", "into the gap")
    if status == 200:
        assert again.now["document"]["description"] == "into the gap"
    again.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "25"}})
    assert again.built()["mass"]["volume"] == pytest.approx(40 * 30 * 25)
    assert again.travel("undo") == 200
    assert again.now["document"]["steps"][1]["extent"]["depth"] == "10"


def stopping_never_ends_a_foreign_program(here: Installation) -> None:
    foreign = subprocess.Popen(["sleep", "60"])
    (here.folder / "running.json").write_text(json.dumps({**here.known(), "pid": foreign.pid}))
    assert any("shop_inbox" in line for line in here.left())
    assert "is stopped" in here.say("stop").stdout  # what is ours is found all the same
    assert not here.answers()
    assert here.left() == []
    assert foreign.poll() is None
    foreign.kill()
    foreign.wait()
    assert "was not running" in here.say("stop").stdout


def a_backup_is_put_back_as_it_was(here: Installation, dunlin: Client, folder: Path) -> None:
    kept = dunlin.new_part("Kept bracket")
    kept.block()
    kept.built()
    file = folder / "all.sulvak-backup"
    assert here.say("backup", str(file)).returncode == 0
    assert "no folder" in here.say("backup", str(folder / "none" / "x")).stderr
    dunlin.new_part("Made after it")
    assert "stop it first" in here.say("restore", str(file)).stderr
    stopping_never_ends_a_foreign_program(here)
    assert "say --yes" in here.say("restore", str(file)).stderr
    (folder / "junk").write_bytes(b"junk")
    assert "cannot be read as a backup" in here.say("restore", str(folder / "junk"), "--yes").stderr
    done = here.say("restore", str(file), "--yes")
    assert done.returncode == 0, done.stderr
    here.start()
    again = here.client("dunlin", PASSWORD)
    names = [c["name"] for c in again.get(f"/api/workspaces/{again.workspace()}/parts")[1]["parts"]]
    assert sorted(names) == ["Kept bracket", "Outlives"]
    status, build = again.get(f"{again.part_named('Kept bracket').path}/build")  # nothing has to be built again
    assert (status, build["ready"]) == (200, True)
    assert build["mass"]["volume"] == pytest.approx(12000)


def without_the_demo_nobody_comes_in_with_its_password(here: Installation) -> None:
    wren = here.client()
    assert wren.part_named("Pan hub")
    here.say("stop")
    here.start("--no-demo")
    with pytest.raises(AssertionError):
        here.client()


def djangos_own_commands_have_the_right_environment(here: Installation) -> None:
    assert "no changes detected" in here.say("manage", "makemigrations", "--check", "--dry-run").stdout.lower()


@pytest.mark.kills
def test_the_life_of_an_installation(here: Installation, tmp_path: Path) -> None:
    """One after the other on the same installation: setting one up is what costs."""
    dunlin = a_person_is_added_without_the_demo(here)
    it_comes_up_again_whatever_became_of_the_last_run(here)
    two_starts_at_once_both_end_well(here)
    killing_postgresql_keeps_every_acknowledged_change(here, dunlin)
    a_backup_is_put_back_as_it_was(here, dunlin, tmp_path)
    without_the_demo_nobody_comes_in_with_its_password(here)
    djangos_own_commands_have_the_right_environment(here)


def test_one_that_keeps_ending_does_not_hold_up_the_other() -> None:
    """One ends at once every time and so waits longer and longer; the other is back within a moment all the same."""
    ending, steady = Kept(["false"]), Kept(["sleep", "600"])
    try:
        for _ in range(4):  # its pause has grown to seconds
            ending.again_at = None if ending.process is None else 0.0
            ending.tend()
            assert ending.process is not None
            ending.process.wait(10)
            ending.pause *= 2
        steady.tend()
        assert steady.process is not None
        first = steady.process.pid
        os.kill(first, signal.SIGKILL)
        steady.process.wait(10)
        ended = ending.process.pid if ending.process else 0
        began = time.monotonic()
        while steady.process.poll() is not None:
            ending.tend()
            steady.tend()
            time.sleep(0.02)
            assert time.monotonic() - began < 30
        assert steady.process.pid != first
        assert ending.process.pid == ended
        assert ending.pause > 3
        assert (ending.again_at or 0) > began
    finally:
        ending.end()
        steady.end()
