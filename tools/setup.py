"""Installing what is missing; done again only when what it depends on has changed."""

from __future__ import annotations

import ast
import contextlib
import glob
import hashlib
import json
import os
import shutil
import subprocess
import sys
import venv
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from .places import PYTHON, ROOT, VENV, WEB, Trouble, say

CHROMIUM = "/usr/bin/chromium"


def run(*command: str | Path, cwd: Path = ROOT, quiet: bool = True, env: dict[str, str] | None = None) -> None:
    """Run a command; its output is shown only if it fails."""
    words = [str(c) for c in command]
    done = subprocess.run(
        words,
        cwd=cwd,
        env=env,
        stdout=subprocess.PIPE if quiet else None,
        stderr=subprocess.STDOUT if quiet else None,
        text=True,
        check=False,
    )
    if done.returncode:
        if quiet:
            say((done.stdout or "")[-4000:])
        raise Trouble(f"“{' '.join(words[:4])} …” failed; what it said stands above.")


def digest(*patterns: str) -> str:
    """A hash over the contents of the files that match."""
    total = hashlib.sha256()
    for pattern in patterns:
        for name in sorted(glob.glob(str(ROOT / pattern), recursive=True)):
            path = Path(name)
            if path.is_file() and "__pycache__" not in name:
                total.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes())
    return total.hexdigest()


def _stamp(folder: Path, name: str) -> Path:
    return folder / f".sulvak-{name}"


def _fresh(stamp: Path, value: str) -> bool:
    return stamp.exists() and stamp.read_text() == value


def debian(packages: dict[str, str]) -> None:
    """Install Debian packages; ``packages`` maps a name to a path pattern that shows it is there."""
    missing = [name for name, sign in packages.items() if not glob.glob(sign)]
    if not missing:
        return
    rights = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if not shutil.which("apt-get"):
        raise Trouble(f"Missing: {', '.join(missing)}. This is not a Debian system; install them yourself.")
    if rights and not shutil.which("sudo"):
        raise Trouble(f"Missing: {', '.join(missing)}. Run this as root once, or install them yourself.")
    say(f"Installing {', '.join(missing)} from Debian's packages …")
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    # Debian starts a server of its own on installing PostgreSQL; Sulvak runs its own, so that one is not wanted
    if "postgresql" in missing:
        conf = Path("/etc/postgresql-common/createcluster.conf")
        if not conf.exists() and os.geteuid() == 0:
            conf.parent.mkdir(parents=True, exist_ok=True)
            conf.write_text("create_main_cluster = false\n")
    run(*rights, "apt-get", "update", env=env)
    run(*rights, "apt-get", "install", "-y", "--no-install-recommends", *missing, env=env)


def python(which: str) -> None:
    """A virtual environment with the pinned packages: ``run`` or ``dev`` (dev holds run)."""
    if sys.version_info < (3, 11):  # noqa: UP036 - whatever python3 is on the machine runs this
        raise Trouble(f"Sulvak needs Python 3.11 or newer; this is {sys.version.split()[0]}.")
    if not PYTHON.exists():
        say("Making a virtual environment …")
        try:
            venv.create(VENV, with_pip=True)
        except subprocess.CalledProcessError:
            shutil.rmtree(VENV, ignore_errors=True)
            debian({"python3-venv": "/nowhere"})
            venv.create(VENV, with_pip=True)
    want = digest("requirements/*.txt")
    if _fresh(_stamp(VENV, "dev"), want) or (which == "run" and _fresh(_stamp(VENV, "run"), want)):
        return
    say("Installing Python packages …")
    # not compiled ahead: most of it is never loaded, and what is loaded is compiled then. The locks name all that is
    # needed, so that nothing has to be worked out
    pip = (PYTHON, "-m", "pip", "install", "-q", "--no-compile", "--no-deps", "--require-hashes", "-r")
    if not (_works(*pip, "requirements/installer.txt") and _installed_fast(which)):
        run(*pip, f"requirements/{which}.txt")
    _stamp(VENV, which).write_text(want)


def _works(*command: str | Path, env: dict[str, str] | None = None) -> bool:
    words = [str(c) for c in command]
    return subprocess.run(words, cwd=ROOT, env=env, capture_output=True, check=False).returncode == 0


def _installed_fast(which: str) -> bool:
    """Whether uv could install what a lock names: it takes it from where pip does, in less than half the time."""
    told = subprocess.run([PYTHON, "-m", "pip", "config", "list"], capture_output=True, text=True, check=False).stdout
    more, env = as_uv_takes_it(told)
    uv = (VENV / "bin" / "uv", "pip", "install", "-q", "--python", PYTHON, "--no-cache", "--no-deps")
    more += ["--index-strategy", "unsafe-best-match"]  # whichever has it: what it must be is told by its hash
    env = {**os.environ, "UV_HTTP_TIMEOUT": "60", **env}
    return _works(*uv, *more, "--require-hashes", "-r", f"requirements/{which}.txt", env=env)


OPTIONS = {"index-url": "--default-index", "extra-index-url": "--index", "find-links": "--find-links"}


def as_uv_takes_it(told: str) -> tuple[list[str], dict[str, str]]:
    """Where packages come from, as options and environment of uv, out of what ``pip config list`` tells."""
    found: dict[str, list[str]] = {}
    for line in told.splitlines():
        key, _, value = line.partition("=")
        with contextlib.suppress(ValueError, SyntaxError):
            found.setdefault(key.rpartition(".")[2], []).extend(str(ast.literal_eval(value)).split())
    found["index-url"] = found.get("index-url", [])[-1:]  # of this there is one: the last said holds
    options = [word for name, option in OPTIONS.items() for one in found.get(name, ()) for word in (option, one)]
    if found.get("no-index", ["0"])[-1].lower() in ("1", "true", "yes", "on"):
        options.append("--no-index")
    return options, {"SSL_CERT_FILE": found["cert"][-1]} if "cert" in found else {}


def node() -> None:
    """Node packages as locked, and the front end built from the sources as they are."""
    npm = shutil.which("npm")
    if not npm or not shutil.which("node"):
        raise Trouble("Node 20 or newer with npm is needed to build the front end; install nodejs and npm.")
    version = subprocess.run(["node", "--version"], capture_output=True, text=True, check=False).stdout.strip()
    if int(version.lstrip("v").split(".")[0] or 0) < 20:
        raise Trouble(f"Node 20 or newer is needed to build the front end; this is {version}.")
    modules = WEB / "node_modules"
    want = digest("web/package.json", "web/package-lock.json")
    if not _fresh(_stamp(modules, "modules"), want):
        say("Installing node packages …")
        # not “npm ci”: that insists on packages of other platforms, which a mirror may not have
        run(npm, "install", "--no-save", "--no-audit", "--no-fund", cwd=WEB)
        _stamp(modules, "modules").write_text(want)
    source = digest("web/src/**/*", "web/index.html", "web/public/**/*", "web/*.ts", "web/*.json")
    if not _fresh(_stamp(WEB / "dist", "built"), source):
        say("Building the front end …")
        run(npm, "run", "build", cwd=WEB)
        _stamp(WEB / "dist", "built").write_text(source)


def everything(tests: bool) -> None:
    """All that start (or, with ``tests``, test) needs."""
    wanted = {
        "postgresql": "/usr/lib/postgresql/*/bin/initdb",
        "tesseract-ocr": "/usr/bin/tesseract",
        "tesseract-ocr-eng": "/usr/share/tesseract-ocr/*/tessdata/eng.traineddata",
    }
    if tests:
        wanted["chromium"] = CHROMIUM
    debian(wanted)
    with ThreadPoolExecutor(2) as side_by_side:
        both = side_by_side.submit(python, "dev" if tests else "run"), side_by_side.submit(node)
    for one in both:
        one.result()


def version_of_code() -> str:
    """Changes whenever what runs would change."""
    return digest("core/**/*.py", "server/**/*.py", "requirements/run.txt", "web/dist/.sulvak-built")


def write_json(path: Path, data: object) -> None:
    path.write_text(json.dumps(data, indent=1))
