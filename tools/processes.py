"""Web server and worker as one service: started, watched, restarted when they end, stopped."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from . import own, postgres, setup
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
        # where the room on the disk is watched: only for a database of this machine's own
        **({} if os.environ.get("DATABASE_URL") else {"SULVAK_DATA": str(postgres.folder())}),
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
        # A client that asks again just as an idle connection is closed is cut off without an answer; five seconds, as
        # it is left to itself, are a pause of somebody who is working.
        "--timeout-keep-alive",
        "75",
        *_proxy(),
    ]


def _proxy() -> list[str]:
    """Whose word on where a request comes from is believed: nobody's, unless a proxy in front is told of."""
    proxies = os.environ.get("SULVAK_PROXIES", "127.0.0.1,::1" if os.environ.get("SULVAK_HTTPS") == "1" else "")
    return ["--proxy-headers", "--forwarded-allow-ips", proxies] if proxies else ["--no-proxy-headers"]


def worker_command() -> list[str]:
    return [str(PYTHON), "server/manage.py", "work"]


def inbox_command(port: int | None = None, folder: Path | None = None, seconds: float = 5.0) -> list[str]:
    """The simulated shop's inbox: on loopback, at the port that the servers are told of."""
    at = port or int(os.environ["SULVAK_SHOP_INBOX"].rsplit(":", 1)[1])
    where = folder or state() / "shop-inbox"
    return [str(PYTHON), "-m", "shop_inbox", "--port", str(at), "--folder", str(where), "--seconds", str(seconds)]


def _info_file() -> Path:
    return state() / "running.json"


def info() -> dict[str, object] | None:
    """What runs now, or None: the process that watches, if it is still the one that was started."""
    with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
        data = json.loads(_info_file().read_text())
        pid = int(data["pid"])
        if data["born"] == own.born(pid) and own.is_ours(pid):
            return data
    return None


def taken(host: str, port: int) -> bool:
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind((host, port))
        except OSError:
            return True
    return False


def start(host: str, port: int, demo: bool, foreground: bool) -> str:
    """Start everything (or leave it as it runs) and return the address."""
    with own.one_at_a_time():
        return _start(host, port, demo, foreground)


def _start(host: str, port: int, demo: bool, foreground: bool) -> str:
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
        own.end_all()
    elif own.end_all():
        say("What was left of an earlier run is ended.")
    if taken(host, port):
        raise Trouble(f"Port {port} on {host} is taken by another program; choose one with --port.")
    postgres.start()
    bring_up_to_date(demo)
    inbox = f"http://127.0.0.1:{postgres.free_port()}"
    env = environment(SULVAK_DEMO="1" if demo else "", SULVAK_SHOP_INBOX=inbox, **own.mark())
    if host not in ("127.0.0.1", "localhost"):
        env["SULVAK_HOSTS"] = os.environ.get("SULVAK_HOSTS", f"localhost,127.0.0.1,{host}")
    call = [sys.executable, "-m", "tools.supervise", host, str(port)]
    if foreground:
        setup.write_json(_info_file(), {"pid": os.getpid(), "born": own.born(os.getpid()), **wanted})
        say(f"Sulvak is at {address} (stop with Ctrl+C)")
        os.chdir(ROOT)
        os.execve(sys.executable, call, env)
    log = (state() / "sulvak.log").open("ab")
    process = subprocess.Popen(
        call, cwd=ROOT, env=env, stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True
    )
    setup.write_json(_info_file(), {"pid": process.pid, "born": own.born(process.pid), **wanted})
    wait_for(address, process)
    return address


def bring_up_to_date(demo: bool) -> None:
    """The database as this code wants it, with the demo workshop or without; nothing is done where it is so already."""
    url = os.environ.get("DATABASE_URL") or postgres.url()
    wanted = json.dumps([setup.version_of_code(), hashlib.sha256(url.encode()).hexdigest()[:16], demo])
    done = state() / "migrated"
    if done.exists() and done.read_text() == wanted:
        return
    say("Bringing the database up to date …")
    done.unlink(missing_ok=True)
    manage("load_demo", "--migrate", *([] if demo else ["--close"]))
    done.write_text(wanted)


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


def stop(database: bool = True) -> int:
    """End all that runs for this state folder, also what a killed run left; how many processes there were."""
    with own.one_at_a_time():
        count = own.end_all()
        _info_file().unlink(missing_ok=True)
        if database:
            postgres.stop()
    return count
