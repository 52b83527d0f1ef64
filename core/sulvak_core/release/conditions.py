"""What must hold before a revision of a part is released, line by line, with the way to where it can be mended."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..drawing.asked import Asker
from ..drawing.sheet import DrawnSheet
from ..inspect.mass import mass
from ..inspect.prove import prove
from ..making.finding import Checked
from ..part.shop import CheckName
from ..part.units import in_unit, mass_text, number
from ..rebuild.engine import Build
from ..sketch.freedom import freedom
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document
from ..steps.shared import title, values_for
from .letters import is_letter

Page = Literal["board", "inspection", "drawing", "data"]
TOLD = 4  # things named of many
CHECK_WORDS: dict[CheckName, str] = {
    "solid": "a sound solid",
    "mould": "release from the mould",
    "walls": "wall thickness",
    "cutters": "cutter access",
}


@dataclass(frozen=True)
class Condition:
    """``key`` names it; ``what`` it asks for, ``said`` how it stands; ``page`` and ``at`` (a step, a tab of the
    inspection) lead to where it can be mended. An open one can be released over with a reason."""

    key: str
    what: str
    holds: bool
    said: str
    page: Page = "board"
    at: str = ""


def conditions(
    document: Document,
    build: Build,
    checks: Mapping[CheckName, Checked],
    sheet: DrawnSheet | None,
    undrawn: str = "",
) -> list[Condition]:
    """All that must hold. ``checks``: those that the part asks for, made; ``sheet``: its drawing, None with the reason
    in ``undrawn`` where it cannot be made."""
    return [
        _identified(document),
        *_route(document, build),
        _constrained(document, build),
        *_callouts(document, build),
        _mass(document, build),
        *[_check(document, name, checks[name]) for name in document.shop.asked if name in checks],
        _drawing(sheet, undrawn),
    ]


def _some(things: Sequence[str]) -> str:
    more = f" and {len(things) - TOLD} more" if len(things) > TOLD else ""
    return ", ".join(things[:TOLD]) + more


def _identified(document: Document) -> Condition:
    what = "number, material and revision letter"
    wanting = [w for w, there in (("a part number", document.number), ("a material", document.material)) if not there]
    if not is_letter(document.revision):
        wanting.append("a revision letter (A, B, C …)")
    said = (
        f"it has no {' and no '.join(w.removeprefix('a ') for w in wanting)}"
        if wanting
        else f"{document.number}, {document.material}, revision {document.revision}"
    )
    return Condition("identity", what, not wanting, said, "data")


def _route(document: Document, build: Build) -> list[Condition]:
    failed = [title(document, s) for s in document.steps if any(r.id == s.id for r in build.failed)]
    if not build.state.bodies:
        built = Condition("built", "every step builds", False, "there is no solid yet")
    elif failed:
        at = build.failed[0].id
        built = Condition("built", "every step builds", False, f"{_some(failed)} cannot be built", "board", at)
    elif document.hold is not None:
        said = f"the build is held after step {document.position(document.hold)}"
        built = Condition("built", "every step builds", False, said, "board", document.hold)
    else:
        built = Condition("built", "every step builds", True, f"{len(document.steps)} steps")
    silent = [s for s in document.steps if s.suppressed and not s.note.strip()]
    words = [f"{title(document, s)}" for s in silent]
    whole = Condition(
        "suppressed",
        "no step is suppressed unless its note says why",
        not silent,
        f"{_some(words)}: suppressed, and no note says why" if silent else "none, or said why",
        "board",
        silent[0].id if silent else "",
    )
    return [built, whole]


def _constrained(document: Document, build: Build) -> Condition:
    values = values_for(document)
    free = []
    for step in document.built():
        if isinstance(step, SketchStep):
            sketch = build.sketches.get(step.id, step.sketch)
            left = freedom(sketch, values.all(sketch), with_motions=False).count
            if left:
                free.append((step.id, f"{title(document, step)} ({left} left)"))
    said = f"still free: {_some([w for _, w in free])}" if free else "nothing can move"
    return Condition(
        "constrained", "every sketch is fully constrained", not free, said, "board", free[0][0] if free else ""
    )


def _callouts(document: Document, build: Build) -> list[Condition]:
    verdicts = [v for v in prove(document, build) if v["state"] != "note"]
    judged = [v for v in verdicts if v["state"] != "reference"]
    wrong = [v for v in judged if v["state"] != "proven"]
    if not judged:
        proven = Condition(
            "proven",
            "every callout is proven",
            False,
            "there are no callouts: nothing is proven against a sheet",
            "board",
        )
    else:
        said = f"{len(judged)} of {len(judged)} proven"
        if wrong:
            said = f"{len(judged) - len(wrong)} of {len(judged)} proven; not " + _some(
                [f"({v['number']}) {v['said']}" for v in wrong]
            )
        proven = Condition("proven", "every callout is proven", not wrong, said, "inspection", "sizes")
    bare = [
        s.text
        for s in Asker(document, build).all().sizes
        if s.number is None and not s.by_hand and not s.requirement.reference
    ]
    said = f"no callout speaks of {_some(bare)}" if bare else "every size has its callout"
    return [proven, Condition("covered", "every size has a callout", not bare, said, "inspection", "coverage")]


def _mass(document: Document, build: Build) -> Condition:
    weighed = mass(document, build.state)
    what = "the mass is on its target"
    if weighed["mass"] is None:
        return Condition("mass", what, False, "a body has no material, so it cannot be weighed", "data")
    shown = mass_text(weighed["mass"], document.mass_unit)
    if weighed["target"] is None:
        return Condition("mass", what, False, f"{shown}; no target is set", "data")
    target = weighed["target"]
    band = f"{mass_text(target['grams'], document.mass_unit)} ±{number(target['tolerance'], 3)} g"
    return Condition("mass", what, bool(weighed["within"]), f"{shown}, target {band}", "inspection", "mass")


def _check(document: Document, name: CheckName, found: Checked) -> Condition:
    out = [in_unit(f.said, document.unit) for f in found.findings if f.worth == "out"]
    said = _some(out) if out else "passed"
    return Condition(f"check-{name}", f"check of the shop: {CHECK_WORDS[name]}", found.passed, said, "inspection", name)


def _drawing(sheet: DrawnSheet | None, undrawn: str) -> Condition:
    what = "the drawing of this revision is whole"
    if sheet is None:
        return Condition("drawing", what, False, undrawn, "drawing")
    wrong = [f"{s.text} is not as the part is" for s in sheet.sizes if not s.proven]
    wrong += [f"no view shows {t}" for t in sheet.left_out] + [f"an added size: {said}" for said in sheet.lost.values()]
    overlaps = sheet.overlaps()
    if overlaps:
        wrong.append(f"{overlaps} sizes or views lie on something")
    said = _some(wrong) if wrong else f"{sheet.paper}, {sheet.scale}, {len(sheet.sizes)} sizes, none lies on anything"
    return Condition("drawing", what, not wrong, said, "drawing")


def plain(found: Sequence[Condition]) -> list[dict[str, Any]]:
    """Conditions as plain data."""
    return [dict(vars(c)) for c in found]
