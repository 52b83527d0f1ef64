"""Who may do what; hostile files; crashes, hangs and kills."""

import contextlib
import json
import os
import signal
import subprocess
import sys
import threading
import time
import zlib
from typing import Any

import pytest

from tests.conftest import Client, Part, Service


def test_unknown_and_forbidden_look_alike(service: Service) -> None:
    wren, rook, nobody = Client(service), Client(service, "rook"), Client(service, None)
    code = (
        "from django.contrib.auth.models import User; from workspaces.models import *;"
        "u = User.objects.create_user('stranger', password='kite-and-ballast');"
        "w = Workspace.objects.create(name='Elsewhere'); Membership.objects.create(workspace=w, user=u, role='owner')"
    )
    service.shell(code)
    stranger = Client(service, "stranger")
    part = wren.new_part()
    part.block()
    paths = [
        "",
        "/build",
        "/file",
        "/history",
        "/picture",
        "/sheet/0",
        "/sheet/0/reading",
        "/sheet/0/lines",
        "/inspection",
        "/inspection.csv",
        "/export/step",
        "/drawing",
        "/drawing/file/pdf",
        "/mesh/m1",
        "/sketches/s1/motions",
    ]
    unknown = part.path[:-4] + "0000"
    for path in paths:
        answers = [stranger.raw("GET", p + path)[:2] for p in (part.path, unknown)]
        assert answers[0] == answers[1]
        assert answers[0][0] == 404
        assert nobody.raw("GET", part.path + path)[0] == 401
    for call in ["/commands", "/undo", "/copy", "/archive"]:
        body = {"version": 0, "command": {"do": "set_hold"}, "archived": True}
        assert stranger.post(part.path + call, body)[0] == 404
        assert rook.post(part.path + call, body)[0] == 403
    assert stranger.post(f"{part.path}/measure", {"picks": [{"body": "s2"}]})[0] == 404
    assert rook.get(part.path)[0] == 200
    assert stranger.get(f"/api/workspaces/{wren.workspace()}/parts")[0] == 404
    assert rook.post("/api/parts", {"workspace": wren.workspace(), "name": "x"})[0] == 403
    assert stranger.post("/api/parts", {"workspace": wren.workspace(), "name": "x"})[0] == 404


def test_csrf_and_headers(service: Service, wren: Client) -> None:
    part = wren.new_part()
    body = json.dumps({"version": 0, "command": {"do": "set_part", "changes": {"name": "stolen"}}}).encode()
    status, _, _ = wren.raw("POST", f"{part.path}/commands", body, {"Content-Type": "application/json"})
    assert status == 403
    _, _, headers = wren.raw("GET", "/")
    policy = headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe-inline" not in policy.replace("style-src-attr 'unsafe-inline'", "")
    assert headers["X-Frame-Options"] == "DENY"
    assert headers["X-Content-Type-Options"] == "nosniff"
    cookie = next(c for c in wren.jar if c.name == "sessionid")
    assert cookie.has_nonstandard_attr("HttpOnly")


def test_sign_in_is_slowed_after_failures(service: Service) -> None:
    client = Client(service, None)
    answers = [client.post("/api/sign-in", {"name": "gull", "password": f"wrong{i}"}) for i in range(8)]
    assert [a[0] for a in answers[:5]] == [403] * 5
    assert answers[-1][0] == 429
    assert "wait" in answers[-1][1]["sentence"]
    assert client.post("/api/sign-in", {"name": 3})[0] == 400
    assert Client(service, anew=True).get("/api/me")[1]["name"] == "wren"  # others can still


SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm">{}</svg>'


def _png(width: int, height: int) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    head = width.to_bytes(4, "big") + height.to_bytes(4, "big") + b"\x08\x00\x00\x00\x00"
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


HOSTILE = [
    (b"", "empty"),
    (b"MZ\x90 not a drawing", "none of them"),
    (b"<html><body>hello</body></html>", "none of them"),
    (SVG.format("<script>alert(1)</script>").encode(), "script"),
    (SVG.format('<rect onload="x()"/>').encode(), "program code"),
    (SVG.format('<image href="http://example.org/x.png"/>').encode(), "outside itself"),
    (SVG.format('<rect style="fill:url(http://example.org/#a)"/>').encode(), "outside itself"),
    (SVG.format("<foreignObject/>").encode(), "foreignobject"),
    (b'<!DOCTYPE svg [<!ENTITY a "aaa">]>' + SVG.format("&a;").encode(), "DTD"),
    (SVG.format("<g>").encode(), "damaged"),
    (b'<svg xmlns="http://www.w3.org/2000/svg"/>', "no size"),
    (b"\x89PNG\r\n\x1a\n broken", "damaged"),
    (_png(30000, 30000), "pixels"),
    (b"%PDF-1.7 nothing in it", "PDF"),
]


@pytest.mark.parametrize(("data", "said"), HOSTILE)
def test_hostile_sheets_are_named_and_refused(wren: Client, data: bytes, said: str) -> None:
    part = wren.new_part()
    status, answer = wren.upload(f"{part.path}/sheet", "sheet.svg", data, version="0")
    assert status == 422
    assert said in answer["sentence"]
    assert wren.get(part.path)[1]["document"]["sheet"] is None


def test_good_sheets_of_each_kind(wren: Client) -> None:
    import io

    from reportlab.pdfgen.canvas import Canvas

    pdf = io.BytesIO()
    canvas = Canvas(pdf, pagesize=(300, 200))
    canvas.line(10, 10, 200, 100)
    canvas.showPage()
    canvas.line(10, 100, 200, 10)
    canvas.save()
    for data, media, pages in [
        (SVG.format("<path d='M0 0L9 9'/>").encode(), "image/svg+xml", 1),
        (_png(40, 20), "image/png", 1),
        (pdf.getvalue(), "application/pdf", 2),
    ]:
        part = wren.new_part()
        status, answer = wren.upload(f"{part.path}/sheet", "../../evil name.svg", data, version="0")
        assert status == 200, answer
        sheet = answer["document"]["sheet"]
        assert (sheet["media_type"], len(sheet["pages"])) == (media, pages)
        status, shown, headers = wren.raw("GET", f"{part.path}/sheet/{pages - 1}")
        assert status == 200
        assert "sandbox" in headers["Content-Security-Policy"]
        assert shown.startswith(b"<svg" if media == "image/svg+xml" else b"\x89PNG")
        assert wren.raw("GET", f"{part.path}/sheet/{pages}")[0] == 404


@pytest.mark.parametrize(
    ("work", "seconds", "said"),
    [("crash", 30.0, "broke down"), ("hang", 4.0, "longer than"), ("swell", 60.0, "memory")],
)
def test_a_kernel_that_crashes_hangs_or_swells_costs_one_piece_of_work(work: str, seconds: float, said: str) -> None:
    """Against the pool itself: the next piece of work on the same process is done as if nothing had happened."""
    from kernel.pool import KernelFailure, KernelProcess
    from sulvak_core.steps.registry import to_json
    from tests.core.parts import plate

    process = KernelProcess(memory=1500 << 20)
    serve = {"get": lambda key: None, "put": lambda key, data: None}
    try:
        with pytest.raises(KernelFailure, match=said):
            process.run({"do": work}, seconds, **serve)
        made = process.run({"do": "build", "document": to_json(plate().document)}, 40.0, **serve)
        assert made["figures"]["mass"]["volume"] == pytest.approx(12000)
    finally:
        process.stop()


def _group(leader: int) -> list[int]:
    """The processes that one began, without itself."""
    found = subprocess.run(["pgrep", "-g", str(leader)], capture_output=True, text=True, check=False)
    return [int(p) for p in found.stdout.split() if int(p) != leader]


def _loaded(pipe: Any) -> None:
    threads = len(os.listdir(f"/proc/{os.getppid()}/task"))  # of the one it is forked from
    pipe.send(["OCP" in sys.modules, "sulvak_core.rebuild.engine" in sys.modules, threads])


def test_a_kernel_process_begins_with_everything_loaded() -> None:
    """Forked from a process without threads, of which a fork would take along none but their locks."""
    from kernel.pool import context

    ours, theirs = context.Pipe()
    process = context.Process(target=_loaded, args=(theirs,), daemon=True)
    process.start()
    try:
        assert ours.recv() == [True, True, 1]
    finally:
        process.kill()
        process.join(5)


def test_a_process_that_could_not_be_forked_is_tried_once_more(monkeypatch: pytest.MonkeyPatch) -> None:
    """What it is forked from may end just then."""
    from kernel import pool
    from sulvak_core.steps.registry import to_json
    from tests.core.parts import plate

    real = pool.context.Process
    tried: list[dict[str, Any]] = []

    def gone() -> None:
        raise EOFError

    def unlucky(**how: Any) -> Any:
        made = real(**how)
        tried.append(how)
        if len(tried) == 1:
            monkeypatch.setattr(made, "start", gone)
        return made

    monkeypatch.setattr(pool.context, "Process", unlucky)
    process = pool.KernelProcess(memory=1500 << 20)
    serve = {"get": lambda key: None, "put": lambda key, data: None}
    try:
        made = process.run({"do": "build", "document": to_json(plate().document)}, 40.0, **serve)
        assert (made["figures"]["mass"]["volume"], len(tried)) == (pytest.approx(12000), 2)
    finally:
        process.stop()


TWO_AT_WORK = """
import time
from kernel.pool import KernelProcess
busy, idle = KernelProcess(3 << 30), KernelProcess(3 << 30)
for process in (busy, idle):
    process.start()
    process.pipe.recv()
busy.pipe.send({"do": "hang"})
busy.pipe.recv()
print("at work", flush=True)
time.sleep(600)
"""


def test_kernel_processes_end_with_the_worker_that_was_killed_alone(service: Service) -> None:
    command = ["python", "-c", TWO_AT_WORK]
    with subprocess.Popen(command, env=service._env(), stdout=subprocess.PIPE, start_new_session=True) as worker:
        try:
            assert worker.stdout is not None
            assert worker.stdout.readline() == b"at work\n"
            assert len(_group(worker.pid)) >= 3  # what they are forked from, and two
            os.kill(worker.pid, signal.SIGKILL)
            worker.wait()
            deadline = time.monotonic() + 60
            while _group(worker.pid) and time.monotonic() < deadline:
                time.sleep(0.1)
            assert _group(worker.pid) == []
        finally:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(worker.pid, signal.SIGKILL)


def test_a_process_killed_in_mid_work_is_not_the_works_fault() -> None:
    """Its work is taken up again by a fresh process; which then may take as long as any."""
    from kernel.pool import KernelFailure, KernelProcess

    process = KernelProcess(memory=1500 << 20)
    process.start()
    assert process.process is not None
    killed = process.process.pid or 0
    timer = threading.Timer(1.0, os.kill, (killed, signal.SIGKILL))
    timer.start()
    try:
        with pytest.raises(KernelFailure, match="longer than"):
            process.run({"do": "hang"}, 4.0, get=lambda key: None, put=lambda key, data: None)
        assert not timer.is_alive()
    finally:
        process.stop()


@pytest.mark.kills
def test_killing_kernel_processes_and_the_worker_loses_nothing(service: Service, wren: Client) -> None:
    part = wren.new_part("Killed")
    part.block()
    part.built()
    assert service.worker is not None
    for pid in _group(service.worker.pid):
        with_pid_gone = os.kill
        with_pid_gone(pid, signal.SIGKILL)
    part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "11"}})
    assert part.built()["mass"]["volume"] == pytest.approx(13200)
    # the worker itself, in the middle of a rebuild
    for depth in range(12, 20):
        part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": str(depth)}})
    service.kill("worker")
    part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "21"}})
    service.start_worker()
    assert part.built()["mass"]["volume"] == pytest.approx(25200)
    assert len(wren.get(f"{part.path}/history")[1]) == part.now["version"]


@pytest.mark.kills
def test_killing_the_web_server_keeps_every_acknowledged_change(service: Service, wren: Client) -> None:
    part = wren.new_part("Survivor")
    part.block()
    for n in range(6):
        part.do(do="set_part", changes={"description": f"change {n}"})
    service.kill("web")
    service.start_web()
    again = Part(Client(service), part.id)
    assert again.now["version"] == part.now["version"]
    assert again.now["document"]["description"] == "change 5"
    assert again.travel("undo") == 200
    deadline = time.monotonic() + 60
    while again.now["document"]["description"] != "change 4" and time.monotonic() < deadline:
        again = Part(Client(service), part.id)
    assert again.now["document"]["description"] == "change 4"
