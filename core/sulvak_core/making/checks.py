"""The checks of the shop by name, on a part as it is built, with the limits it has."""

from __future__ import annotations

from ..part.shop import CheckName
from ..rebuild.engine import Build
from ..rebuild.hole import size_of
from ..steps.kinds.hole import HoleStep
from ..steps.registry import Document, names
from .cutters import check_cutters
from .finding import Checked, Progress, untold
from .mould import check_mould
from .soundness import check_solid
from .walls import check_walls


def checked(document: Document, made: Build, name: CheckName, progress: Progress = untold) -> Checked:
    """One check of a built part. ``progress`` is told how far those are that take long."""
    bodies, shop = made.state.bodies, document.shop
    if name == "solid" or not bodies:
        found = check_solid(document, bodies, shop.solid)
        return found if name == "solid" else Checked(name, found.findings)
    if name == "mould":
        return check_mould(bodies, shop.mould)
    if name == "walls":
        return check_walls(bodies, shop.walls, progress)
    return check_cutters(bodies, shop.cutters, threads(document, made), progress)


def threads(document: Document, made: Build) -> list[tuple[str, float, float]]:
    """Step, diameter and depth (mm) of the threads that are cut to a depth."""
    known = names(document)
    done = {r.id for r in made.reports if r.state == "ok"}
    found = []
    for step in document.steps:
        if not isinstance(step, HoleStep) or step.form != "tapped" or step.id not in done:
            continue
        size = size_of(step)
        deep = step.thread_depth or (step.depth if step.end == "blind" else "")
        if deep:
            diameter = size.diameter if size is not None else known.value(step.diameter, "length")
            found.append((step.id, diameter, known.value(deep, "length")))
    return found
