"""Web server and worker as one service: started, watched, restarted when they end, stopped."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from . import postgres, setup
from .places import PYTHON, ROOT, Trouble, say, secret, state


def environment(**more: str) -> dict[str, str]:
    """What server processes need to know."""
    return {
        **os.environ,
        "DATABASE_URL": os.environ.get("DATABASE_URL") or postgres.url(),
        "SULVAK_SECRET_KEY": secret("secret-key"),
        "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}",
        "DJANGO_SETTINGS_MODULE": "sulvak_server.settings",
        "PYTHONUNBUFFERED": "1",
        # the matrices are small: a second thread in the algebra costs more than it does
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        **more,
    }


def manage(*arguments: str, **more: str) -> None:
    setup.run(PYTHON, "server/manage.py", *arguments, env=environment(**more))


def web_command(host: str, port: int) -> list[str]:
    return [
        str(PYTHON),
        "-m",
        "uvicorn",
        "sulvak_server.asgi:application",
        "--host",
        host,
        "--port",
        str(port),
        "--no-access-log",
        "--lifespan",
        "off",
        "--timeout-graceful-shutdown",
        "3",
    ]


def worker_command() -> list[str]:
    return [str(PYTHON), "server/manage.py", "work"]


def _info_file() -> Path:
    return state() / "running.json"


def info() -> dict[str, object] | None:
    """What runs now, or None."""
    with contextlib.suppress(OSError, ValueError):
        data = json.loads(_info_file().read_text())
        os.kill(int(data["pid"]), 0)
        return data
    return None


def _taken(host: str, port: int) -> bool:
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind((host, port))
        except OSError:
            return True
    return False


def start(host: str, port: int, demo: bool, foreground: bool) -> str:
    """Start everything (or leave it as it runs) and return the address."""
    version = setup.version_of_code()
    now = info()
    wanted = {"host": host, "port": port, "demo": demo, "code": version}
    address = f"http://{host}:{port}/"
    if now is not None:
        if all(now.get(k) == v for k, v in wanted.items()):
            postgres.start()
            say("Sulvak runs already.")
            return address
        say("Restarting with the new code and settings …")
        stop(database=False)
    if _taken(host, port):
        raise Trouble(f"Port {port} on {host} is taken by another program; choose one with --port.")
    postgres.start()
    done = state() / "migrated"
    if not done.exists() or done.read_text() != version:
        say("Bringing the database up to date …")
        manage("migrate", "--verbosity", "0")
        done.write_text(version)
    if demo:
        manage("load_demo", SULVAK_DEMO="1")
    env = environment(SULVAK_DEMO="1" if demo else "")
    if host not in ("127.0.0.1", "localhost"):
        env["SULVAK_HOSTS"] = os.environ.get("SULVAK_HOSTS", f"localhost,127.0.0.1,{host}")
    call = [sys.executable, "-m", "tools.supervise", host, str(port)]
    if foreground:
        setup.write_json(_info_file(), {"pid": os.getpid(), **wanted})
        say(f"Sulvak is at {address} (stop with Ctrl+C)")
        os.chdir(ROOT)
        os.execve(sys.executable, call, env)
    log = (state() / "sulvak.log").open("ab")
    process = subprocess.Popen(
        call, cwd=ROOT, env=env, stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True
    )
    setup.write_json(_info_file(), {"pid": process.pid, **wanted})
    wait_for(address, process)
    return address


def wait_for(address: str, process: subprocess.Popen[bytes], seconds: float = 120) -> None:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if process.poll() is not None:
            break
        try:
            with urllib.request.urlopen(address + "api/me", timeout=2) as answer:
                if answer.status == 200:
                    return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise Trouble(f"The server did not come up; its log is {state() / 'sulvak.log'}.")


def stop(database: bool = True) -> None:
    now = info()
    if now is not None:
        pid = int(str(now["pid"]))
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGTERM)
        for _ in range(100):
            if not _alive(pid):
                break
            time.sleep(0.1)
        else:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(pid, signal.SIGKILL)
        _info_file().unlink(missing_ok=True)
    if database:
        postgres.stop()


def _alive(pid: int) -> bool:
    with contextlib.suppress(ChildProcessError):
        os.waitpid(pid, os.WNOHANG)
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True
