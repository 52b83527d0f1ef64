"""Who leaves is not worked for: what waits in the queue is taken out, what has begun is stopped."""

import socket
import time
from typing import Any

import pytest

from tests.conftest import Client, Service
from tests.server.test_queue import in_django

JOBS = """
import json
from procrastinate.contrib.django.models import ProcrastinateJob
rows = ProcrastinateJob.objects.filter(task_name="kernel.{task}").values_list("status", flat=True)
print(json.dumps(sorted(rows)))
"""
HANG = """
import json
from kernel.queue import ask
from parts.models import PartRecord
part = PartRecord.objects.get(pk="{part}")
print(json.dumps([ask(part.pk, part.version, {{"do": "hang", "n": n}}) for n in range(12)]))
"""
GIVE_UP = """
import json
from kernel.queue import give_up
for key in {keys}:
    give_up(key)
print(json.dumps(0))
"""


def jobs(service: Service, task: str) -> list[str]:
    return list(in_django(service, JOBS.format(task=task)))


def until(service: Service, task: str, wanted: Any, seconds: float = 40) -> list[str]:
    end = time.monotonic() + seconds
    while not wanted(found := jobs(service, task)) and time.monotonic() < end:
        time.sleep(0.2)
    return found


def test_work_is_given_up_when_who_asked_for_it_leaves(service: Service, wren: Client) -> None:
    part = wren.new_part("Left alone")
    part.block()
    part.built()
    keys = in_django(service, HANG.format(part=part.id))  # every kernel process has something that never ends
    assert "doing" in until(service, "answer", lambda rows: "doing" in rows)
    cookies = "; ".join(f"{c.name}={c.value}" for c in wren.jar)
    with socket.create_connection(("127.0.0.1", service.port)) as line:
        asked = f"GET {part.path}/export/step HTTP/1.1\r\nHost: localhost\r\nCookie: {cookies}\r\n\r\n"
        line.sendall(asked.encode())
        assert until(service, "export", lambda rows: rows == ["todo"]) == ["todo"]
    assert until(service, "export", lambda rows: rows == []) == []
    # what has begun is stopped too, and its process goes on with something else
    in_django(service, GIVE_UP.format(keys=keys))
    assert until(service, "answer", lambda rows: rows == []) == []
    assert wren.raw("GET", f"{part.path}/export/step")[0] == 200


TRIED = """
import json, time
import kernel.tasks as tasks
from kernel.models import PreviewTurn
from parts.models import PartRecord
part = PartRecord.objects.get(pk="{part}")
turns = PreviewTurn.objects.update_or_create(part=part, window="w", defaults={{"turn": 1}})
seen = []
def call(part_id, request, stopped):
    seen.append(stopped())
    PreviewTurn.objects.filter(part=part, window="w").update(turn=2)
    seen.append(stopped())  # asked of the database once a second at most
    time.sleep(1.1)
    seen.append(stopped())
    raise tasks.KernelFailure("stopped")
tasks._call = call
tasks.preview(part=str(part.pk), window="w", turn=1, command={{}})
print(json.dumps(seen))
"""


def test_a_try_is_stopped_when_a_newer_one_is_asked_for_or_none(service: Service, wren: Client) -> None:
    part = wren.new_part("Tried")
    assert in_django(service, TRIED.format(part=part.id)) == [False, False, True]


def test_what_is_nearly_done_is_finished(monkeypatch: pytest.MonkeyPatch) -> None:
    """Stopping costs the process and all it knows."""
    from kernel import pool
    from sulvak_core.steps.registry import to_json
    from tests.core.parts import plate

    process = pool.KernelProcess(memory=1500 << 20)
    serve: dict[str, Any] = {"get": lambda key: None, "put": lambda key, data: None, "stopped": lambda: True}
    build = {"do": "build", "document": to_json(plate().document)}
    try:
        process.run(build, 40.0, get=serve["get"], put=serve["put"])
        before = process.process.pid
        assert process.run(build, 40.0, **serve)["figures"]["mass"]["volume"] == pytest.approx(12000)
        assert process.process.pid == before
        monkeypatch.setattr(pool, "STOPPING", 0.2)
        with pytest.raises(pool.Abandoned):
            process.run({"do": "hang"}, 40.0, **serve)
        assert process.process is None
    finally:
        process.stop()
