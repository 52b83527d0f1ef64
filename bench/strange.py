"""Parts unlike the demo's: what each stage of a build costs on its own."""

from __future__ import annotations

import hashlib
import statistics
import time
from collections.abc import Callable

from tests.core.parts import Made, disc, plate
from tests.core.sketches import rectangle, text

from sulvak_core.exchange import solid_files
from sulvak_core.inspect.prove import prove
from sulvak_core.inspect.report import body_picture, figures
from sulvak_core.rebuild.adviser import advise
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.rebuild.version import FILE, HAS
from sulvak_core.solid.outline import outline_svg
from sulvak_core.solid.shapes import faces
from sulvak_core.steps.registry import load

from .solid import grid

TIMES = 5


def _proven(made: Made, *asked: tuple[str, str, str]) -> Made:
    """Callouts: text, the step and the field they speak of."""
    for k, (said, step, field) in enumerate(asked, 1):
        made.do("set_callout", callout={"id": f"b{k}", "number": k, "text": said})
        made.do("link_callout", callout=f"b{k}", step=step, field=field)
    return made


def _oblique() -> Made:
    """A disc cut by a sloping plane, with holes square to the slope."""
    made = Made()
    made.sketch("s1", "top", disc((0, 0), 40))
    made.extrude("s2", "s1", "30")
    made.step(
        "datum",
        "s3",
        form="angled",
        plane={"kind": "datum", "plane": "top"},
        axis={"kind": "axis", "axis": "x"},
        angle="20",
    )
    made.step("datum", "s4", form="offset", plane={"kind": "plane", "step": "s3"}, distance="22")
    made.sketch("s5", {"kind": "plane", "step": "s4"}, rectangle(x=-100, y=-100, w=200, h=200, held=False))
    made.extrude("s6", "s5", "100", "cut")
    for k, (x, y) in enumerate([(-18, -12), (0, -16), (18, -12), (-12, 12), (12, 12)]):
        made.sketch(f"s{7 + 2 * k}", {"kind": "plane", "step": "s4"}, disc((x, y), 4))
        made.extrude(f"s{8 + 2 * k}", f"s{7 + 2 * k}", "12", "cut", reverse=True)
    return _proven(made, ("30", "s2", "depth"))


def _holes() -> Made:
    """A plate with 240 holes."""
    made = Made()
    plain = grid(16).model_dump(mode="json")
    plain["steps"][2]["sketch"]["entities"] = plain["steps"][2]["sketch"]["entities"][:240]
    made.document = load(plain)
    return _proven(made, ("12", "s2", "depth"))


def _engraved() -> Made:
    """A plate with two lines of engraved text."""
    made = plate(120, 40)
    made.sketch("s3", made.face("s2/end"))
    for k, (words, y) in enumerate([("FENMARSH KITE SURVEY", 26), ("BALLAST 0.25 KG / ROD 7", 10)], 1):
        made.do("sketch_add", step="s3", entities=[text(k, words, (6, y), (112, y)).model_dump(mode="json")])
    made.extrude("s4", "s3", "0.8", "cut")
    return _proven(made, ("10", "s2", "depth"), ("0.8", "s4", "depth"))


def _rounds() -> Made:
    """A plate with 24 pockets, all their edges rounded, and the outside too."""
    made = plate(140, 100, "20")
    made.sketch("s3", made.face("s2/end"))
    for k in range(24):
        x, y = 8 + 22 * (k % 6), 8 + 23 * (k // 6)
        box = rectangle(x=x, y=y, w=14, h=14, held=False)
        moved = [e.model_copy(update={"id": f"l{4 * k + i + 1}"}) for i, e in enumerate(box.entities)]
        made.do("sketch_add", step="s3", entities=[e.model_dump(mode="json") for e in moved])
    made.extrude("s4", "s3", "12", "cut")
    made.step("fillet", "s5", groups=[{"edges": [{"by": "corners", "step": "s4"}], "radius": "3"}])
    made.step("fillet", "s6", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "8"}])
    made.step("fillet", "s7", groups=[{"edges": [{"by": "around", "face": made.face("s2/end")}], "radius": "1"}])
    return _proven(made, ("20", "s2", "depth"), ("R8", "s6", "radius"))


class _Shelf:
    def __init__(self, file: bytes) -> None:
        self.file = file

    def get(self, key: str) -> bytes | None:
        if key.startswith(HAS):
            return b"yes"
        return self.file if key.startswith(FILE) else None

    def put(self, key: str, data: bytes) -> None:
        pass


def _received() -> tuple[Made, Callable[[], Cache]]:
    """A STEP body (the pockets with their rounds, as a file) with a hole cut into it."""
    source = _rounds()
    file = solid_files.step(source.document, source.build().state)
    made = Made()
    made.cache = Cache(_Shelf(file))
    made.step("import", "s1", file=hashlib.sha256(file).hexdigest(), title="pockets.step")
    made.sketch("s2", "top", disc((4, 50), 2))
    made.extrude("s3", "s2", None, "cut")
    return made, lambda: Cache(_Shelf(file))


def _stages(made: Made, cache: Callable[[], Cache] = Cache) -> str:
    """Median milliseconds of every stage on a part built anew each time, one after the other as the server does it."""
    names = ("route", "figures", "mesh", "outline", "proofs", "advice")
    taken: dict[str, list[float]] = {n: [] for n in names}
    count = 0
    for _ in range(TIMES + 1):
        kept = cache()

        def timed(name: str, work: Callable[[], object]) -> object:
            start = time.perf_counter()
            found = work()
            taken[name].append(time.perf_counter() - start)
            return found

        result = timed("route", lambda kept=kept: build(made.document, kept))  # type: ignore[misc]
        assert not result.failed, [r.said for r in result.failed]  # type: ignore[attr-defined]
        bodies = result.state.bodies  # type: ignore[attr-defined]
        count = sum(len(faces(b.shape)) for b in bodies)
        timed("figures", lambda result=result: figures(made.document, result))  # type: ignore[misc]
        timed("mesh", lambda bodies=bodies: [body_picture(made.document, b) for b in bodies])  # type: ignore[misc]
        timed("outline", lambda bodies=bodies: outline_svg([b.shape for b in bodies]))  # type: ignore[misc]
        timed("proofs", lambda result=result: prove(made.document, result))  # type: ignore[misc]
        timed("advice", lambda result=result, kept=kept: advise(made.document, result, kept))  # type: ignore[misc]
    each = [statistics.median(taken[n][1:]) for n in names]
    share = (each[1] + each[2]) / each[0]
    told = ", ".join(f"{n} {1000 * t:.0f}" for n, t in zip(names, each, strict=True))
    return f"{share:.2f}× ({count} faces; ms: {told})"


def oblique() -> str:
    """figures and mesh against the route: a disc cut obliquely, five holes square to the slope | 1× | 0.5×"""
    return _stages(_oblique())


def holes() -> str:
    """the same, a plate with 240 holes | 1× | 0.5×"""
    return _stages(_holes())


def engraved() -> str:
    """the same, 40 engraved letters | 1× | 0.5×"""
    return _stages(_engraved())


def rounds() -> str:
    """the same, 24 pockets with rounds | 1× | 0.5×"""
    return _stages(_rounds())


def received() -> str:
    """the same, a STEP file's body with a hole cut into it | 1× | 0.5×"""
    return _stages(*_received())


ROWS = [oblique, holes, engraved, rounds, received]
