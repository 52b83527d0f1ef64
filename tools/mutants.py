"""How many small mistakes the core's tests notice: ``python -m tools.mutants [count] [seed] [after]``; the first
``after`` are passed over, so that a run that was broken off goes on.

Mistakes are made one at a time, in a copy of the source, at places drawn at random from the rooms where an answer is
worked out: a comparison turned or moved by one, a sign, an operator, a number, a condition. The tests of the core that
reach the file are run, those that reach it most directly first, until one fails. What survives is told with its place,
to be looked at: some change nothing that anybody could notice.
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

from .changed import imported, reached
from .places import PYTHON, ROOT, say

ROOMS = {
    "solver": "sketch/rows sketch/system sketch/solve sketch/reduce sketch/variables sketch/freedom sketch/diagnosis "
    "sketch/solution_branches sketch/directions sketch/substitution",
    "naming": "naming/find naming/words",
    "rebuild": "rebuild/engine rebuild/kinds/fillet rebuild/kinds/shell rebuild/kinds/rib rebuild/extrude rebuild/hole "
    "rebuild/pattern rebuild/tooling rebuild/resolve rebuild/refine rebuild/bodies rebuild/describe",
    "sheet": "sheet/notation inspect/prove",
}
TURNED: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Lt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
}
COPIED = (
    "core",
    "shop_inbox",
    "tests",
    "tools",
    "demo",
    "docs",
    "web/src",
    "web/tests",
    "server",
    "bench",
    "requirements",
)
COPIED_FILES = ("pyproject.toml", "README.md", "sulvak")
SECONDS = 900  # for the tests of one mistake; one that makes them hang is noticed


def sites(tree: ast.Module) -> Iterator[tuple[ast.AST, str]]:
    """Places for a mistake: the node, and what is done to it. Tolerances and texts are left alone."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare) and type(node.ops[0]) in TURNED:
            yield node, "compare"
        elif isinstance(node, ast.BinOp) and type(node.op) in TURNED and not _text(node):
            yield node, "operator"
        elif isinstance(node, ast.BoolOp):
            yield node, "and/or"
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
            yield node, "sign"
        elif isinstance(node, ast.Constant) and _counts(node.value):
            yield node, "number"
        elif isinstance(node, ast.If):
            yield node, "condition"


def _counts(value: object) -> bool:
    """Whether it is a number, and no tolerance."""
    return isinstance(value, int | float) and not isinstance(value, bool) and not 0 < value < 1e-5


def _text(node: ast.BinOp) -> bool:
    """Whether texts or lists are put together."""
    sides = (node.left, node.right)
    return any(isinstance(n, ast.JoinedStr | ast.List) or isinstance(getattr(n, "value", None), str) for n in sides)


def spoil(node: ast.AST, how: str) -> None:
    """Make the mistake in place."""
    if isinstance(node, ast.Compare):
        node.ops[0] = TURNED[type(node.ops[0])]()  # type: ignore[call-overload]
    elif isinstance(node, ast.BinOp | ast.BoolOp):
        node.op = TURNED[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.UnaryOp):
        node.op = ast.UAdd()
    elif isinstance(node, ast.Constant):
        node.value = node.value * 2 if isinstance(node.value, float) and node.value else node.value + 1  # type: ignore
    elif isinstance(node, ast.If):
        node.test = ast.UnaryOp(ast.Not(), node.test)


def mutants(count: int, seed: int) -> Iterator[tuple[Path, int, str, str, str]]:
    """File, line, what was done, the line before and the whole file after, drawn evenly over the rooms."""
    draw = random.Random(seed)
    for k in range(count):
        room = list(ROOMS)[k % len(ROOMS)]
        path = ROOT / "core" / "sulvak_core" / f"{draw.choice(ROOMS[room].split())}.py"
        text = path.read_text()
        tree = ast.parse(text)
        bodies = [b for f in ast.walk(tree) if isinstance(f, ast.FunctionDef) for b in f.body]
        node, how = draw.choice([s for body in bodies for s in sites(ast.Module([body], []))])
        line = int(getattr(node, "lineno", 0))
        spoil(node, how)
        yield path, line, how, text.split("\n")[line - 1].strip(), ast.unparse(ast.fix_missing_locations(tree))


def nearest(path: Path) -> list[str]:
    """Tests of the core that reach a file, those that import it themselves first."""
    tests = [t for t in sorted((ROOT / "tests" / "core").glob("test_*.py")) if path in reached(t)]
    own = {t: path in imported(t) or path.stem in t.stem for t in tests}
    slow = {"test_survival", "test_any_route", "test_directions", "test_changed"}
    return [str(t.relative_to(ROOT)) for t in sorted(tests, key=lambda t: (not own[t], t.stem in slow, t.name))]


def noticed(path: Path, after: str, tests: list[str]) -> str:
    """The first test that fails with the mistake in; empty where all pass."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder)
        for name in (*COPIED, *COPIED_FILES):
            to = copy / name
            to.parent.mkdir(parents=True, exist_ok=True)
            (shutil.copytree if (ROOT / name).is_dir() else shutil.copy)(ROOT / name, to)
        (copy / path.relative_to(ROOT)).write_text(after)
        env = {**os.environ, "PYTHONPATH": ":".join(str(copy / p) for p in ("core", "server", ".")), "CI": "1"}
        quiet = ["-p", "no:django", "-p", "no:cacheprovider", "-W", "ignore", "-x", "-q", "--no-header", "-n", "2"]
        command = [str(PYTHON), "-m", "pytest", *quiet, *tests]
        try:
            done = subprocess.run(command, cwd=copy, env=env, text=True, capture_output=True, timeout=SECONDS)
        except subprocess.TimeoutExpired:
            return "it goes on for ever"
        lines = [x for x in done.stdout.split("\n") if x.startswith(("FAILED", "ERROR"))]
        return (lines or ["it cannot be imported"])[0] if done.returncode else ""


def main() -> None:
    given = [int(a) for a in sys.argv[1:]]
    count, seed, done = (*given, *(40, 14, 0)[len(given) :])
    rows = ROOT / "core" / "sulvak_core" / "sketch" / "rows.py"
    if not done and (by := noticed(rows, rows.read_text(), nearest(rows))):
        sys.exit(f"Without a mistake the tests fail in a copy already: {by}")
    caught = 0
    for k, (path, line, how, before, after) in enumerate(mutants(count, seed), 1):
        if k <= done:
            continue
        by = noticed(path, after, nearest(path))
        caught += bool(by)
        say(f"{k:3d} {path.relative_to(ROOT / 'core' / 'sulvak_core')}:{line} {how}: {before[:90]}")
        say(f"      {by[:140] or 'SURVIVED'}")
    say(f"{caught} of {count - done} noticed.")


if __name__ == "__main__":
    main()
