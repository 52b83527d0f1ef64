"""A running Sulvak on a database of its own, and people talking to it: for the tests and the bench."""

from __future__ import annotations

import asyncio
import contextlib
import fcntl
import http.cookiejar
import json
import os
import signal
import subprocess
import tempfile
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Coroutine, Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlsplit, urlunsplit

import psycopg
from tools.places import ROOT
from tools.postgres import free_port
from tools.processes import inbox_command, web_command, worker_command

PASSWORD = "kite-and-ballast"


def template_name() -> str:
    """The prepared database of this run: the same for all its processes, another for the next run."""
    return f"prepared_{os.environ.setdefault('SULVAK_TEST_RUN', uuid.uuid4().hex[:12])}"


def drop_template() -> None:
    """Take the prepared database of this run away, if it was made."""
    admin = urlunsplit(urlsplit(os.environ["DATABASE_URL"])._replace(path="/postgres"))
    with contextlib.suppress(psycopg.OperationalError), psycopg.connect(admin, autocommit=True) as c:
        for name in (template_name(), f"{template_name()}_raw"):
            c.execute(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')
    (Path(tempfile.gettempdir()) / f"{template_name()}.lock").unlink(missing_ok=True)


def carried_out(work: Coroutine[Any, Any, Any]) -> Any:
    """What asynchronous work gives. In a thread of its own: where a browser is driven, a loop runs already."""
    with ThreadPoolExecutor(1) as one:
        return one.submit(asyncio.run, work).result()


class Service:
    """Web server and worker as processes that can be killed and started again."""

    def __init__(self, folder: Path) -> None:
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        base = urlsplit(os.environ["DATABASE_URL"])
        self.admin = urlunsplit(base._replace(path="/postgres"))
        self.name = f"test_{uuid.uuid4().hex[:10]}"
        self.database = urlunsplit(base._replace(path=f"/{self.name}"))
        self.env = {
            **os.environ,
            "DATABASE_URL": self.database,
            "DJANGO_SETTINGS_MODULE": "tests.service_settings",
            "SULVAK_DEMO": "1",
            "SULVAK_KERNEL_SECONDS": "60",
            "SULVAK_KERNEL_MEMORY": str(3 << 30),
            "SULVAK_SHOP_INBOX": f"http://127.0.0.1:{free_port()}",
        }
        self.folder = folder
        self.log = (folder / "service.log").open("ab")
        self.demo: dict[str, tuple[str, str]] = {}  # the parts it began with
        self.signed: dict[str, list[http.cookiejar.Cookie]] = {}  # by name: what a browser keeps of having signed in
        self.web: subprocess.Popen[bytes] | None = None
        self.worker: subprocess.Popen[bytes] | None = None
        self.inbox: subprocess.Popen[bytes] | None = None

    def create(self) -> None:
        """The database: a copy of one that is prepared once for all services of a run."""
        template = self.prepare()
        with psycopg.connect(self.admin, autocommit=True) as c:
            c.execute(f'CREATE DATABASE "{self.name}" TEMPLATE "{template}"')
        self.demo = self.parts()

    def prepare(self) -> str:
        """The name of a database with the demo in it, all of it built."""
        name = template_name()
        with (Path(tempfile.gettempdir()) / f"{name}.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)  # the first who comes prepares it, the others wait
            with psycopg.connect(self.admin, autocommit=True) as c:
                if c.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone():
                    return name
                c.execute(f'CREATE DATABASE "{name}_raw"')
            address = urlunsplit(urlsplit(self.admin)._replace(path=f"/{name}_raw"))
            env = {**self._env(), "DATABASE_URL": address}
            subprocess.run(["python", "server/manage.py", "load_demo", "--migrate"], cwd=ROOT, env=env, check=True)
            worker = subprocess.Popen(
                worker_command(), cwd=ROOT, env=env, stdout=self.log, stderr=self.log, start_new_session=True
            )
            try:
                with psycopg.connect(address, autocommit=True) as c:
                    waiting = "SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing')"
                    deadline = time.monotonic() + 300
                    while c.execute(waiting).fetchone() != (0,):
                        assert time.monotonic() < deadline, f"the demo was not built; see {self.log.name}"
                        time.sleep(0.2)
            finally:
                os.killpg(worker.pid, signal.SIGKILL)
                worker.wait()
            with psycopg.connect(self.admin, autocommit=True) as c:
                c.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", [f"{name}_raw"])
                c.execute(f'ALTER DATABASE "{name}_raw" RENAME TO "{name}"')
        return name

    def _env(self) -> dict[str, str]:
        return {**self.env, "PATH": f"{ROOT / '.venv' / 'bin'}:{os.environ['PATH']}"}

    def parts(self, among: Iterable[str] | None = None) -> dict[str, tuple[str, str]]:
        """The parts that are there, or those of some that are: by id the name, and a digest of the document."""
        some = "" if among is None else "WHERE id = ANY(%s::uuid[])"
        with psycopg.connect(self.database, autocommit=True) as c:
            asked = f"SELECT id::text, document->>'name', md5(document::text) FROM parts_partrecord {some}"
            rows = c.execute(asked, None if among is None else [list(among)])
            return {ident: (name, digest) for ident, name, digest in rows.fetchall()}

    def told(self, lines: int = 40) -> str:
        """The last of what its processes wrote."""
        self.log.flush()
        written = (self.folder / "service.log").read_text(errors="replace").splitlines()
        return "\n".join(written[-lines:])

    def drop(self) -> None:
        with psycopg.connect(self.admin, autocommit=True) as c:
            c.execute(f'DROP DATABASE IF EXISTS "{self.name}" WITH (FORCE)')

    def _start(self, command: list[str]) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            command, cwd=ROOT, env=self._env(), stdout=self.log, stderr=self.log, start_new_session=True
        )

    def shell(self, code: str) -> None:
        """Run Python in the service's Django."""
        command = ["python", "server/manage.py", "shell", "-c", code]
        subprocess.run(command, env=self._env(), check=True, capture_output=True)

    def start_web(self) -> None:
        self.web = self._start(web_command("127.0.0.1", self.port))
        deadline = time.monotonic() + 120
        while time.monotonic() < deadline:
            with contextlib.suppress(OSError):
                urllib.request.urlopen(f"{self.address}/api/me", timeout=2)
                return
            time.sleep(0.1)
        raise AssertionError(f"the web server did not come up; see {self.log.name}")

    def start_inbox(self) -> None:
        """The shop's inbox, which looks at a pack for half a second."""
        port = int(self.env["SULVAK_SHOP_INBOX"].rsplit(":", 1)[1])
        self.inbox = self._start(inbox_command(port, self.folder / "inbox", 0.5))

    def start_worker(self) -> None:
        self.worker = self._start(worker_command())

    def kill(self, which: str) -> None:
        """kill -9 of a process and all it started."""
        process = getattr(self, which)
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()

    def close(self) -> None:
        for process in (self.web, self.worker, self.inbox):
            if process is not None and process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()
        self.log.close()


class Client:
    """Somebody talking to the service over HTTP, with cookies and the CSRF token.

    Signs in the first time and goes on with that session afterwards, as a browser does, unless ``anew``.
    """

    def __init__(
        self, service: Service, name: str | None = "wren", password: str = PASSWORD, anew: bool = False
    ) -> None:
        self.service = service
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        if name and name in service.signed and not anew:
            for cookie in service.signed[name]:
                self.jar.set_cookie(cookie)
            return
        self.raw("GET", "/")
        if name:
            status, _ = self.post("/api/sign-in", {"name": name, "password": password})
            assert status == 200
            service.signed[name] = list(self.jar)

    def token(self) -> str:
        return next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")

    def raw(
        self, method: str, path: str, data: bytes | None = None, headers: dict[str, str] | None = None
    ) -> tuple[int, bytes, dict[str, str]]:
        request = urllib.request.Request(self.service.address + path, data, headers or {}, method=method)
        try:
            with self.opener.open(request, timeout=180) as answer:
                return answer.status, answer.read(), dict(answer.headers)
        except urllib.error.HTTPError as error:
            return error.code, error.read(), dict(error.headers)

    def _json(self, method: str, path: str, data: Any = None) -> tuple[int, Any]:
        body = None if data is None else json.dumps(data).encode()
        headers = {"Content-Type": "application/json", "X-CSRFToken": self.token()}
        status, text, _ = self.raw(method, path, body, headers)
        try:
            return status, json.loads(text)
        except ValueError:
            return status, text

    def get(self, path: str) -> tuple[int, Any]:
        return self._json("GET", path)

    def post(self, path: str, data: Any = None) -> tuple[int, Any]:
        return self._json("POST", path, data if data is not None else {})

    def upload(self, path: str, name: str, data: bytes, **fields: str) -> tuple[int, Any]:
        mark = uuid.uuid4().hex
        parts = [
            f'--{mark}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'.encode() for k, v in fields.items()
        ]
        head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
        body = b"".join([*parts, head, data, f"\r\n--{mark}--\r\n".encode()])
        headers = {"Content-Type": f"multipart/form-data; boundary={mark}", "X-CSRFToken": self.token()}
        status, text, _ = self.raw("POST", path, body, headers)
        return status, json.loads(text)

    # -- the job ----------------------------------------------------------------------------------

    def workspace(self) -> int:
        return int(self.get("/api/me")[1]["workspaces"][0]["id"])

    def new_part(self, name: str = "Piece", **fields: Any) -> Part:
        status, made = self.post("/api/parts", {"workspace": self.workspace(), "name": name, **fields})
        assert status == 200, made
        return Part(self, made["id"])

    def part_named(self, name: str) -> Part:
        found = self.get(f"/api/workspaces/{self.workspace()}/parts?size=200&search={quote(name)}")[1]["parts"]
        return Part(self, next(c["id"] for c in found if c["name"] == name))

    def copy(self, part: str, name: str) -> Part:
        status, made = self.post(f"/api/parts/{self.part_named(part).id}/copy", {"name": name})
        assert status == 200, made
        return Part(self, made["id"])


class Part:
    """One part over HTTP; keeps track of the version it has seen."""

    def __init__(self, client: Client, ident: str) -> None:
        self.client, self.id = client, ident
        self.path = f"/api/parts/{ident}"
        self.now: dict[str, Any] = client.get(self.path)[1]

    def send(self, **command: Any) -> tuple[int, Any]:
        status, answer = self.client.post(f"{self.path}/commands", {"version": self.now["version"], "command": command})
        if status == 200:
            self.now = answer
        return status, answer

    def do(self, **command: Any) -> dict[str, Any]:
        status, answer = self.send(**command)
        assert status == 200, answer
        return dict(answer)

    def travel(self, way: str) -> int:
        status, answer = self.client.post(f"{self.path}/{way}", {"version": self.now["version"]})
        if status == 200:
            self.now = answer
        return status

    def block(self, w: float = 40, h: float = 30, depth: str = "10") -> None:
        """A block on the top plane by four loose lines, tied and dimensioned."""
        at = [(0, 0), (w, 0), (w, h), (0, h)]
        lines = [{"kind": "line", "id": f"l{i + 1}", "p": at[i], "q": at[(i + 1) % 4]} for i in range(4)]
        ties = [
            {"id": f"k{i + 1}", "kind": "coincident", "refs": [f"l{i + 1}.q", f"l{(i + 1) % 4 + 1}.p"]}
            for i in range(4)
        ]
        self.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
        self.do(do="sketch_add", step="s1", entities=lines, constraints=ties)
        extent = {"kind": "depth", "depth": depth}
        self.do(do="add_step", step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": extent})

    def built(self, seconds: float = 120) -> dict[str, Any]:
        """The build of the present version, waited for."""
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            status, build = self.client.get(f"{self.path}/build")
            if status == 200 and build["ready"] and build["version"] >= self.now["version"]:
                return dict(build)
            time.sleep(0.2)
        raise AssertionError("the part was not built in time")


if __name__ == "__main__":  # ahead of the tests that need it
    with tempfile.TemporaryDirectory() as _folder:
        Service(Path(_folder)).prepare()
