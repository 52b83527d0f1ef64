"""What comes in from outside: bodies too large, many files at once, wrong passwords, and which lines of the log are
whose."""

import asyncio
import http.client
import json
import re
import secrets
import socket
import subprocess
import threading
import time
from pathlib import Path
from typing import Any

import pytest
from tools.places import ROOT

from tests.conftest import Client, Service
from tests.server.test_queue import in_django
from tests.service import carried_out

PICTURE = b'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm"><!--%s--></svg>'


def spoken(service: Service, head: str, *body: bytes) -> tuple[int, str]:
    """The status and body answered to a request written by hand, of which more was promised than comes."""
    with socket.create_connection(("127.0.0.1", service.port), timeout=30) as line:
        line.sendall(f"POST /api/parts/import HTTP/1.1\r\nHost: localhost\r\n{head}\r\n\r\n".encode())
        try:
            for piece in body:
                line.sendall(piece)
        except OSError:
            pass  # the server has heard enough
        answer = http.client.HTTPResponse(line)
        answer.begin()
        return answer.status, json.loads(answer.read())["sentence"]


def test_what_is_too_large_is_refused_before_it_has_come(service: Service) -> None:
    status, said = spoken(service, "Content-Type: application/octet-stream\r\nContent-Length: 5000000000")
    assert (status, "larger than 20 MB" in said) == (413, True)
    # one that does not say how large it is
    chunk = b"100000\r\n" + b"x" * 0x100000 + b"\r\n"
    status, said = spoken(
        service, "Content-Type: application/octet-stream\r\nTransfer-Encoding: chunked", *[chunk] * 30, b"0\r\n\r\n"
    )
    assert (status, "larger than 20 MB" in said) == (413, True)


def test_only_so_many_large_ones_come_in_together() -> None:
    from sulvak_server.bodies import LARGE, Bounded

    async def run() -> list[int]:
        waiting = asyncio.Event()

        async def app(scope: Any, receive: Any, send: Any) -> None:
            while (await receive()).get("more_body"):
                pass
            await waiting.wait()
            await send({"type": "http.response.start", "status": 200, "headers": []})

        bounded = Bounded(app, most=10 * LARGE, together=2)

        async def ask(size: int) -> int:
            said: list[int] = []

            async def receive() -> Any:
                return {"type": "http.request", "body": b"x" * size}

            async def send(message: Any) -> None:
                said.append(message.get("status", 0))

            await bounded({"type": "http", "headers": []}, receive, send)
            return said[0]

        asked = [asyncio.create_task(ask(size)) for size in (2 * LARGE, 2 * LARGE, 2 * LARGE, 100, 11 * LARGE)]
        await asyncio.sleep(0)
        waiting.set()
        first = [await a for a in asked]
        return [*first, await ask(2 * LARGE)]  # there is room again

    assert carried_out(run()) == [200, 200, 503, 200, 413, 200]


def memory(pid: int, what: str) -> int:
    """Bytes of memory of a process: VmRSS, or VmHWM for the most it ever had."""
    text = Path(f"/proc/{pid}/status").read_text()
    found = re.search(rf"{what}:\s+(\d+) kB", text)
    assert found
    return int(found[1]) * 1024


def test_many_files_at_once_take_little_memory_and_nobody_waits(service: Service, wren: Client) -> None:
    """Each is held several times over while it is stored: all at once took the web server to gigabytes."""
    assert service.web is not None
    sizes, parts = 15 << 20, [wren.new_part(f"Many {k}") for k in range(10)]
    before = memory(service.web.pid, "VmRSS")
    Path(f"/proc/{service.web.pid}/clear_refs").write_text("5")  # the most it had counts from here
    came: list[int] = []

    def bring(k: int) -> None:
        part = parts[k]
        data = PICTURE % secrets.token_hex(sizes // 2).encode()
        came.append(Client(service).upload(f"{part.path}/sheet", "sheet.svg", data, version="0")[0])

    threads = [threading.Thread(target=bring, args=(k,)) for k in range(len(parts))]
    for t in threads:
        t.start()
    waits = []
    while any(t.is_alive() for t in threads):
        started = time.monotonic()
        assert wren.get(parts[0].path)[0] == 200
        waits.append(time.monotonic() - started)
        time.sleep(0.05)
    assert came == [200] * len(parts)
    grown = memory(service.web.pid, "VmHWM") - before
    assert grown < 30 * sizes, f"{grown >> 20} MB more"  # ten at once took some ten times each


def tried(service: Service, name: str, address: str, **headers: str) -> int:
    """The answer to a wrong password given from an address of this machine's."""
    line = http.client.HTTPConnection("127.0.0.1", service.port, timeout=60, source_address=(address, 0))
    token = "x" * 32
    line.request(
        "POST",
        "/api/sign-in",
        json.dumps({"name": name, "password": "not this one"}),
        {"Content-Type": "application/json", "Cookie": f"csrftoken={token}", "X-CSRFToken": token, **headers},
    )
    return line.getresponse().status


FAILED_BEFORE = """
from axes.models import AccessFailureLog
for k in range(19):
    AccessFailureLog.objects.create(username="plover", ip_address=f"127.0.1.{k}")
for k in range(39):
    AccessFailureLog.objects.create(username=f"bird{k}", ip_address="127.0.0.9")
print(0)
"""


def test_wrong_passwords_are_slowed_for_a_name_and_for_an_address(service: Service) -> None:
    in_django(service, FAILED_BEFORE)  # just before: tried one by one they would take longer than the minute counted
    # one name from many addresses
    assert [tried(service, "plover", f"127.0.0.{10 + k}") for k in range(2)] == [403, 429]
    # many names from one address; others can still try
    assert [tried(service, f"finch{k}", "127.0.0.9") for k in range(2)] == [403, 429]
    assert tried(service, "siskin", "127.0.0.8") == 403
    # saying that one comes from elsewhere helps nobody
    said = [tried(service, "dunlin", "127.0.0.7", **{"X-Forwarded-For": f"10.0.0.{k}"}) for k in range(8)]
    assert said[-1] == 429


@pytest.mark.parametrize(
    ("env", "arguments"),
    [
        ({}, ["--no-proxy-headers"]),
        ({"SULVAK_HTTPS": "1"}, ["--proxy-headers", "--forwarded-allow-ips", "127.0.0.1,::1"]),
        ({"SULVAK_PROXIES": "10.1.0.0/16"}, ["--proxy-headers", "--forwarded-allow-ips", "10.1.0.0/16"]),
    ],
)
def test_only_a_proxy_that_was_told_of_is_believed(
    monkeypatch: pytest.MonkeyPatch, env: dict[str, str], arguments: list[str]
) -> None:
    from tools.processes import web_command

    for name in ("SULVAK_HTTPS", "SULVAK_PROXIES"):
        monkeypatch.delenv(name, raising=False)
    for name, value in env.items():
        monkeypatch.setenv(name, value)
    assert web_command("127.0.0.1", 1)[-len(arguments) :] == arguments


def test_lines_of_the_log_name_their_request(service: Service, wren: Client) -> None:
    path = "/api/nothing-here"
    _, _, headers = wren.raw("GET", f"{path}%0a2026-01-01%20ERROR%20made%20up")
    number = headers["x-request-id"]
    log = Path(service.log.name).read_text()
    line = next(row for row in log.splitlines() if number in row)
    assert f"[{number} GET {path}\\n2026-01-01 ERROR made up]" in line
    assert not any(row.startswith("2026-01-01 ERROR made") for row in log.splitlines())


BROKEN_WORK = """
from kernel.pool import KernelFailure, KernelProcess
process = KernelProcess(1500 << 20)
try:
    process.run({"do": "measure", "doing": "measure of part 7"}, 60.0, lambda key: None, lambda key, data: None)
except KernelFailure:
    pass
process.stop()
"""


def test_lines_of_kernel_processes_name_their_work(service: Service) -> None:
    done = subprocess.run(
        ["python", "-c", BROKEN_WORK], cwd=ROOT, env=service._env(), capture_output=True, text=True, check=True
    )
    assert "[measure of part 7]: kernel work broke down" in done.stderr
