"""The queue and the kernel processes behind it: nothing waits longer than it must, no answer meets another question."""

from __future__ import annotations

import json
import subprocess
import time
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Client, Service

ROOT = Path(__file__).resolve().parent.parent.parent


def in_django(service: Service, code: str) -> Any:
    """Run code beside the service, with its settings; what it prints last, read as JSON."""
    done = subprocess.run(
        ["python", "server/manage.py", "shell", "-v", "0", "-c", code],
        cwd=ROOT,
        env=service._env(),
        capture_output=True,
        text=True,
        check=True,
    )
    return json.loads(done.stdout.strip().splitlines()[-1])


def test_jobs_waiting_for_one_lock_follow_each_other_at_once(service: Service, wren: Client) -> None:
    """Ten previews asked for in one breath are all answered; that each wakes the next at once, the test below says."""
    part = wren.new_part("Hasty")
    part.block()
    part.built()
    code = f"""
import json, time
from kernel.queue import ask_for_preview
from kernel.models import PreviewTurn
from parts.models import PartRecord
from procrastinate.contrib.django.models import ProcrastinateJob
part = PartRecord.objects.get(pk="{part.id}")
step = {{"kind": "shell", "id": "s3", "faces": []}}
lock = f"preview:{{part.pk}}:w"
started = time.monotonic()
for turn in range(1, 11):
    command = {{"do": "add_step", "step": {{**step, "thickness": repr(0.5 + turn / 10)}}}}
    ask_for_preview(part.pk, "w", turn, command)
while ProcrastinateJob.objects.filter(lock=lock).exists() and time.monotonic() - started < 200:
    time.sleep(0.02)
print(json.dumps(ProcrastinateJob.objects.filter(lock=lock).count()))
"""
    assert in_django(service, code) == 0


def test_a_lock_that_comes_free_is_told(service: Service) -> None:
    """The database wakes the workers when a job ends and another waits for its lock, and only then."""
    import psycopg

    with psycopg.connect(service.database, autocommit=True) as listening:
        with psycopg.connect(service.database) as c, c.transaction(force_rollback=True):
            found = c.execute(
                "SELECT count(*) FROM pg_trigger WHERE tgname = 'sulvak_lock_freed' AND NOT tgisinternal"
            ).fetchone()
            assert found == (1,)
        listening.execute("LISTEN procrastinate_any_queue_v1")
        insert = (
            "INSERT INTO procrastinate_jobs (queue_name, task_name, lock, status, args, attempts) "
            "VALUES ('nobody', 'none', %s, %s::procrastinate_job_status, '{}', 0) RETURNING id"
        )
        with psycopg.connect(service.database, autocommit=True) as c:
            ids = {}
            for lock, status in (("a", "doing"), ("a", "todo"), ("b", "doing")):
                row = c.execute(insert, [f"test:{lock}", status]).fetchone()
                assert row
                ids[lock, status] = row[0]
            for lock in ("b", "a"):
                c.execute("DELETE FROM procrastinate_jobs WHERE id = %s", [ids[lock, "doing"]])
            heard = [json.loads(n.payload) for n in listening.notifies(timeout=1.5, stop_after=50)]
            c.execute("DELETE FROM procrastinate_jobs WHERE lock LIKE 'test:%'")
    freed = [h["job_id"] for h in heard if h["type"] == "job_inserted"]
    assert ids["a", "doing"] in freed[1:]  # once when put in, once when it ended
    assert freed.count(ids["a", "doing"]) >= 1
    assert freed.count(ids["b", "doing"]) <= 1  # nothing waited for it


KERNEL = """
import json, sys
sys.path.insert(0, "server")
from kernel.pool import KernelFailure, KernelProcess

class Broken(Exception):
    pass

def refuse(key):
    raise Broken

def nothing(*_):
    return None

process = KernelProcess(3 << 30)
document = %s
seen = []
try:
    process.run({"do": "build", "document": document}, 60, refuse, nothing)
except Broken:
    seen.append("broken")
seen.append(process.process is None)
made = process.run({"do": "build", "document": document}, 60, nothing, nothing)
seen.append(round(made["figures"]["mass"]["volume"], 6))
process.stop()
print(json.dumps(seen))
"""


@pytest.fixture(scope="module")
def document(service: Service) -> dict[str, Any]:
    part = Client(service).new_part("For a process")
    part.block()
    return dict(part.now["document"])


def test_a_process_that_could_not_be_served_is_replaced(service: Service, document: dict[str, Any]) -> None:
    """What it asked for could not be had: the next request must not get the rest of the last answer."""
    code = KERNEL % repr(document)
    done = subprocess.run(
        ["python", "-c", f"import django; django.setup()\n{code}"],
        cwd=ROOT,
        env=service._env(),
        capture_output=True,
        text=True,
        check=True,
    )
    assert json.loads(done.stdout.strip().splitlines()[-1]) == ["broken", True, 12000]


def test_a_preview_of_a_long_route_still_fits_a_notice(service: Service, wren: Client) -> None:
    """Fifty steps, and the answer to a preview is heard: it speaks of the step that is tried, not of all."""
    import psycopg

    part = wren.new_part("Long")
    part.block(200, 200)
    for i in range(24):
        x, y = 10 + 30 * (i % 6), 10 + 30 * (i // 6)
        on = {"kind": "face", "face": {"origins": ["s2/end"]}}
        part.do(do="add_step", step={"kind": "sketch", "id": f"s{2 * i + 3}", "on": on})
        part.do(do="sketch_add", step=f"s{2 * i + 3}", entities=[{"kind": "circle", "id": "c1", "c": [x, y], "r": 3}])
        extent = {"kind": "through_all"}
        cut = {"kind": "extrude", "operation": "cut", "sketch": f"s{2 * i + 3}", "extent": extent}
        part.do(do="add_step", step={**cut, "id": f"s{2 * i + 4}"})
    part.built()
    command = {"do": "add_step", "step": {"kind": "shell", "id": "s99", "faces": [], "thickness": "1"}}
    with psycopg.connect(service.database, autocommit=True) as listening:
        listening.execute("LISTEN sulvak_events")
        in_django(
            service,
            "import json; from kernel.queue import ask_for_preview; from uuid import UUID;"
            f"ask_for_preview(UUID('{part.id}'), 'w2', 1, {command!r}); print(json.dumps(1))",
        )
        started = time.monotonic()
        for notice in listening.notifies(timeout=40):
            event = json.loads(notice.payload)["event"]
            if event.get("window") == "w2" or event.get("large"):
                break
    assert "large" not in event
    assert event["turn"] == 1
    assert [s["id"] for s in event["steps"]] == ["s99"]
    assert time.monotonic() - started < 40
