"""A disk that gets full: told as that, writing refused in time, and on again by itself."""

import errno
from collections import namedtuple
from typing import Any

import psycopg
import pytest
from django.db import OperationalError
from django.test import Client
from tools import postgres, supervise

from sulvak_server import room
from sulvak_server.outage import outage

Usage = namedtuple("Usage", "total used free")


class Disk:
    free = 1 << 40


@pytest.fixture
def disk(monkeypatch: pytest.MonkeyPatch) -> Disk:
    """A disk under the database whose room is as one says."""
    made = Disk()
    monkeypatch.setenv("SULVAK_DATA", "/")
    monkeypatch.setattr(room.shutil, "disk_usage", lambda folder: Usage(1 << 40, 0, made.free))
    monkeypatch.setattr(room, "LOOK", -1.0)
    return made


def test_changes_are_refused_in_time_and_go_on_again(disk: Disk) -> None:
    client = Client(raise_request_exception=False)
    assert client.post("/api/parts", {}, "application/json").status_code == 401  # as far as it goes without a sign-in
    disk.free = room.RESERVE - 1
    answer = client.post("/api/parts", {}, "application/json")
    assert (answer.status_code, answer.json()["sentence"]) == (507, room.FULL)
    assert client.get("/api/materials").status_code == 401  # looking is not touched
    disk.free = room.RESERVE
    assert client.post("/api/parts", {}, "application/json").status_code == 401


def test_a_database_elsewhere_is_not_judged_by_this_disk(disk: Disk, monkeypatch: pytest.MonkeyPatch) -> None:
    disk.free = 0
    assert room.short()
    monkeypatch.delenv("SULVAK_DATA")
    assert not room.short()


def raised(outer: BaseException, cause: BaseException) -> BaseException:
    outer.__cause__ = cause
    return outer


@pytest.mark.parametrize(
    ("error", "free", "status"),
    [
        (raised(OperationalError(), psycopg.errors.DiskFull()), 1 << 40, 507),
        (OSError(errno.ENOSPC, "no room"), 1 << 40, 507),
        (OperationalError("gone"), 1 << 40, 503),
        (OperationalError("gone"), 1000, 507),
        (OSError(errno.EACCES, "no"), 1000, None),
    ],
)
def test_a_full_disk_is_told_as_one(disk: Disk, error: BaseException, free: int, status: int | None) -> None:
    disk.free = free
    told = outage(error)
    assert (told and told[0]) == status


def test_results_that_can_be_made_again_are_not_kept_when_it_gets_tight(
    disk: Disk, monkeypatch: pytest.MonkeyPatch
) -> None:
    from kernel import tasks

    kept: list[Any] = []
    monkeypatch.setattr(tasks.Artifact.objects, "get_or_create", lambda **fields: kept.append(fields))
    disk.free = room.CACHES - 1
    tasks.put_kept("x", b"")
    assert kept == []
    disk.free = room.CACHES
    tasks.put_kept("x", b"")
    assert len(kept) == 1


def test_postgresql_waits_for_room_before_it_starts_again(
    monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    started: list[int] = []
    tight = True
    monkeypatch.setattr(postgres, "running", lambda: False)
    monkeypatch.setattr(postgres, "no_room", lambda: tight)
    monkeypatch.setattr(postgres, "start", lambda: started.append(1))
    waiting = supervise._tend_database(False)
    waiting = supervise._tend_database(waiting)
    assert (waiting, started) == (True, [])
    assert capfd.readouterr().out.count("full") == 1  # once, not at every look
    tight = False
    assert (supervise._tend_database(waiting), started) == (False, [1])


def test_a_log_that_takes_no_line_ends_nobody(monkeypatch: pytest.MonkeyPatch) -> None:
    """The log lies on the same disk: who keeps things running went down with it."""

    def full(descriptor: int, data: bytes) -> int:
        raise OSError(errno.ENOSPC, "no room")

    monkeypatch.setattr(supervise.os, "write", full)
    supervise.tell("PostgreSQL is gone, starting it again")
