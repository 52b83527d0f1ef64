"""What ./sulvak does."""

from __future__ import annotations

import argparse
import contextlib
import os
import subprocess
import sys
import uuid
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from . import backup, changed, dev, postgres, processes, setup
from .places import PYTHON, ROOT, VENV, WEB, Trouble, say, state

PARTS = ("lint", "screen", "core", "server", "browser")
SIDE_BY_SIDE = ["-n", str(min(2, os.cpu_count() or 1)), "--dist", "worksteal"]
WAITING_TOO = ["-n", str(min(3, 1 + (os.cpu_count() or 1))), "--dist", "worksteal"]  # these wait for much
NO_DJANGO = ["-p", "no:django", "-W", "ignore::pytest.PytestConfigWarning"]
VITEST = ("screen", ["npx", "--no-install", "vitest", "run"], "web")
NOTHING = 5  # what pytest ends with where no test was chosen


def main(arguments: list[str]) -> int:
    p = argparse.ArgumentParser(
        prog="./sulvak", description="Sulvak: from dimensioned drawings to checked solid parts."
    )
    commands = p.add_subparsers(dest="command", required=True)
    s = commands.add_parser("start", help="install what is missing and run Sulvak with its demo")
    s.add_argument("--port", type=int, default=8710)
    s.add_argument("--host", default="127.0.0.1", help="address to listen on (loopback unless you say otherwise)")
    s.add_argument("--no-demo", action="store_true", help="without the demo workshop and its open sign-in")
    s.add_argument(
        "--open-demo",
        action="store_true",
        help="with --host: the demo too, whose password everybody knows, to whoever reaches that address",
    )
    s.add_argument("--foreground", action="store_true", help="stay in the foreground")
    d = commands.add_parser("dev", help="run it for working on it: screen and web process follow their files")
    d.add_argument("--port", type=int, default=8730, help="of the web process; the screen is one above")
    commands.add_parser("stop", help="stop Sulvak and its database")
    t = commands.add_parser("test", help="checks and tests; name parts to run only those")
    t.add_argument(
        "parts",
        nargs="*",
        metavar="PART",
        help=f"any of {', '.join(PARTS)}; or files, as tests/core/test_trim.py::test_name; more words go to pytest",
    )
    t.add_argument("--thorough", action="store_true", help="properties tried with five times as many examples")
    t.add_argument("--changed", action="store_true", help="only what the changes since the last commit touch")
    n = commands.add_parser("person", help="add a person: ./sulvak person add NAME --workspace W --role owner")
    n.add_argument("rest", nargs=argparse.REMAINDER)
    m = commands.add_parser("manage", help="Django's own commands with the right environment")
    m.add_argument("rest", nargs=argparse.REMAINDER)
    k = commands.add_parser("backup", help="write all parts, people and files into one file")
    k.add_argument("file", type=Path)
    k.add_argument("--secrets", action="store_true", help="with the installation's secret key, so that sessions go on")
    r = commands.add_parser("restore", help="put a backup in the place of what is there")
    r.add_argument("file", type=Path)
    r.add_argument("--yes", action="store_true", help="also over parts that are there")
    commands.add_parser("worker", help="run another kernel worker against DATABASE_URL")
    b = commands.add_parser("bench", help="measure, and write docs/benchmarks.md")
    b.add_argument("rows", nargs="*", metavar="ROW", help="only these, as solid.pattern_cut; all without")
    commands.add_parser("schemas", help="write the API, part-file schema and TypeScript types anew")
    for name, (_, words) in OF_CORE.items():
        b = commands.add_parser(name, help=words, add_help=False)
        b.add_argument("rest", nargs=argparse.REMAINDER)
    if arguments[:1] and arguments[0] in OF_CORE:
        return _guarded(lambda: of_core(OF_CORE[arguments[0]][0], arguments[1:]))
    if arguments[:1] == ["manage"]:
        return _guarded(lambda: _manage(arguments[1:]))
    if arguments[:2] == ["person", "add"]:
        return _guarded(lambda: _manage(["add_person", *arguments[2:]]))
    a, rest = p.parse_known_args(arguments)
    if rest and a.command != "test":
        p.error(f"what is {' '.join(rest)}?")
    if rest:
        a.parts += rest  # for pytest
    _compile_once()
    return _guarded(lambda: globals()[f"{a.command}_command"](a))


def _compile_once() -> None:
    """Every process begun from here keeps what it compiles of Python beside the packages, out of the sources, for the
    next: where the surroundings forbid keeping it, each would spend seconds on compiling Django anew."""
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    os.environ.setdefault("PYTHONPYCACHEPREFIX", str(VENV / "compiled"))


def _guarded(work) -> int:  # type: ignore[no-untyped-def]
    try:
        return int(work() or 0)
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def start_command(a: argparse.Namespace) -> None:
    if not a.no_demo and not a.open_demo and a.host not in ("127.0.0.1", "localhost", "::1"):
        raise Trouble(
            "The demo's password is known to everybody, so it is served on loopback only. Start with --no-demo, or say "
            "--open-demo if it is meant for all who reach that address."
        )
    setup.everything(tests=False)
    address = processes.start(a.host, a.port, not a.no_demo, a.foreground)
    say(f"Sulvak is at {address}")
    if not a.no_demo:
        say("Demo sign-in: name wren, password kite-and-ballast")


def dev_command(a: argparse.Namespace) -> None:
    setup.everything(tests=True)
    dev.run(a.port)


def stop_command(a: argparse.Namespace) -> None:
    say("Sulvak is stopped." if processes.stop() else "Sulvak was not running.")


def _manage(words: list[str]) -> int:
    """Django's manage.py for this installation, at the terminal."""
    setup.everything(tests=False)
    postgres.start()
    env = processes.environment()
    return subprocess.run([PYTHON, "server/manage.py", *words], cwd=ROOT, env=env, check=False).returncode


def person_command(a: argparse.Namespace) -> None:
    raise Trouble("Say ./sulvak person add NAME --workspace W --role owner.")


def backup_command(a: argparse.Namespace) -> None:
    setup.debian({"postgresql": "/usr/lib/postgresql/*/bin/initdb"})
    postgres.start()
    backup.write(a.file, a.secrets)
    say(f"Written: {a.file} ({a.file.stat().st_size / 1e6:.1f} MB). It holds all parts and people; keep it safe.")


def restore_command(a: argparse.Namespace) -> None:
    setup.everything(tests=False)
    if processes.info() is not None:
        raise Trouble("Sulvak runs; stop it first (./sulvak stop), then restore.")
    postgres.start()
    backup.read(a.file, a.yes)
    say("Restored. ./sulvak start brings it up to date and runs it.")


def worker_command(a: argparse.Namespace) -> None:
    setup.python("run")
    env = processes.environment()
    os.chdir(ROOT)
    os.execve(str(PYTHON), [str(PYTHON), "server/manage.py", "work"], env)


# commands that need no server and no browser: the core's module, and what it does
OF_CORE = {
    "build": ("command_line", "build a part file without a browser"),
    "check": ("command_check", "hold a part file against its callouts, its mass and the shop's limits"),
    "export": ("command_export", "write a part file as STEP, STL, 3MF or GLB"),
    "compare": ("command_compare", "hold a mesh (STL, 3MF, GLB) against a part file"),
    "draw": ("command_draw", "draw a part file as PDF, SVG or DXF"),
    "release": ("command_release", "look a part file over and write its release pack"),
    "verify": ("command_verify", "check a release pack without a server"),
}


def of_core(module: str, arguments: list[str]) -> int:
    setup.python("run")
    env = {**os.environ, "PYTHONPATH": str(ROOT / "core")}
    return subprocess.run([PYTHON, "-m", f"sulvak_core.{module}", *arguments], env=env, check=False).returncode


def bench_command(a: argparse.Namespace) -> int:
    setup.everything(tests=True)
    postgres.start()
    env = {**processes.environment(), "PYTHONPATH": f"{ROOT}:{ROOT / 'core'}:{ROOT / 'server'}"}
    return subprocess.run([PYTHON, "-m", "bench", *a.rows], cwd=ROOT, env=env, check=False).returncode


def schemas_command(a: argparse.Namespace) -> None:
    setup.everything(tests=True)
    postgres.start()
    env = processes.environment()
    setup.run(PYTHON, "-m", "tools.schemas", env={**env, "PYTHONPATH": f"{env['PYTHONPATH']}:{ROOT}"})
    setup.run("npm", "run", "types", cwd=WEB)
    say("Written: docs/api.json, commands.json, part-file.schema.json, web/src/api/schema.gen.ts, commands.gen.ts")


def test_command(a: argparse.Namespace) -> int:
    if a.thorough:
        os.environ["SULVAK_THOROUGH"] = "1"
    if a.changed:
        a.parts = [*changed.touched(changed.changed_files()), *a.parts]
        if not a.parts:
            say("Nothing that a test reaches has changed.")
            return 0
        say("— what the changes touch: " + ", ".join(a.parts))
    screen = [p for p in a.parts if p.startswith("web/tests/")]
    files = [p for p in a.parts if p.startswith("tests/")]
    if screen or files:
        bad = (screen or "screen" in a.parts) and _screen([p.removeprefix("web/") for p in screen])
        words = [p for p in a.parts if p not in (*files, *screen, "screen")]
        return int(bool(bad)) or (_some(files, words) if files else 0)
    setup.everything(tests=True)
    postgres.start()
    chosen = [p for p in a.parts if p in PARTS] or list(PARTS)
    words = [p for p in a.parts if p not in PARTS]
    env = _surroundings()
    # the longest first, since two run at a time
    failed = _side_by_side([c for c in _checks() if ("screen" if c is VITEST else "lint") in chosen])
    with _prepared(env) if {"server", "browser"} & set(chosen) else contextlib.nullcontext():
        failed += _tests(chosen, words, env)
    if failed:
        say(f"Failed: {', '.join(failed)}.")
        return 1
    say("All passed.")
    return 0


@contextlib.contextmanager
def _prepared(env: dict[str, str]) -> Iterator[None]:
    """The database that tests copy is prepared while others run that do not need it, and taken away in the end."""
    env |= {"SULVAK_TEST_RUN": uuid.uuid4().hex[:12], "SULVAK_TEST_RUN_OF": str(os.getpid())}
    preparing = subprocess.Popen([PYTHON, "-m", "tests.service"], cwd=ROOT, env=env)
    try:
        yield
    finally:
        preparing.wait()
        drop = "from tests.service import drop_template; drop_template()"
        subprocess.run([PYTHON, "-c", drop], cwd=ROOT, env=env, check=False)


def _tests(chosen: list[str], words: list[str], env: dict[str, str]) -> list[str]:
    """Run the tests of the parts chosen; what failed."""
    failed = []
    # the core needs neither Django nor a database; each process of the others has a service and a database of its own
    for name, folders, how in (
        ("core", ["tests/core"], [*SIDE_BY_SIDE, *NO_DJANGO]),
        ("server and browser", [f"tests/{p}" for p in ("server", "browser")], WAITING_TOO),
    ):
        mine = [f for f in folders if f.removeprefix("tests/") in chosen]
        if not mine:
            continue
        say(f"— tests of {name}")
        command = [str(PYTHON), "-m", "pytest", *how, *mine, *words]
        code = subprocess.run(command, cwd=ROOT, env=env, check=False).returncode
        if code and not (code == NOTHING and words):
            failed.append(f"tests of {name}")
    return failed


def _side_by_side(checks: list[tuple[str, list[str], str]]) -> list[str]:
    """Carry out checks, two at a time; the names of those that failed, after what they had to say."""
    failed = []
    with ThreadPoolExecutor(2) as two:
        for (name, _, _), done in zip(checks, two.map(_checked, checks), strict=True):
            say(f"— {name}")
            sys.stdout.write(done.stdout)
            if done.returncode:
                failed.append(name)
    return failed


def _checked(check: tuple[str, list[str], str]) -> subprocess.CompletedProcess[str]:
    _, command, folder = check
    return subprocess.run(
        command, cwd=ROOT / folder, env=_surroundings(), text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )


def _surroundings() -> dict[str, str]:
    return {**processes.environment(), "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}"}


def _screen(files: list[str]) -> int:
    """Tests of the screen that need no browser; the core they draw with is Python."""
    setup.python("dev")
    setup.node()
    name, command, folder = VITEST
    return 0 if _passes(name, [*command, *files], folder) else 1


def _some(files: list[str], words: list[str]) -> int:
    """Just these tests, with no more set up than they need: those of the core neither database nor browser."""
    rooms = {Path(f.split("::")[0]).parts[1] for f in files if len(Path(f).parts) > 1} or set(PARTS)
    if rooms <= {"core"}:
        setup.python("dev")
        env = {**os.environ, "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}"}
        words = [*NO_DJANGO, *words]
    else:
        setup.everything(tests=True)
        postgres.start()
        env = {**processes.environment(), "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}"}
    many = any("::" not in f for f in files)
    side_by_side = SIDE_BY_SIDE if many else ["-n", "0"]
    return subprocess.run([PYTHON, "-m", "pytest", *side_by_side, *files, *words], cwd=ROOT, env=env).returncode


def _checks() -> list[tuple[str, list[str], str]]:
    return [
        ("mypy", [str(PYTHON), "-m", "mypy"], "."),
        VITEST,
        ("ruff", [str(PYTHON), "-m", "ruff", "check", "."], "."),
        ("ruff format", [str(PYTHON), "-m", "ruff", "format", "--check", "."], "."),
        ("generated types", [str(PYTHON), "-m", "tools.schemas", "--check"], "."),
        ("tsc", ["npx", "--no-install", "tsc", "--noEmit"], "web"),
        ("biome", ["npx", "--no-install", "biome", "check"], "web"),
    ]


def _passes(name: str, command: list[str], folder: str) -> bool:
    say(f"— {name}")
    return subprocess.run(command, cwd=ROOT / folder, env=_surroundings(), check=False).returncode == 0


__all__ = ["main", "state"]
