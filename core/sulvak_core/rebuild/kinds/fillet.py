"""Rounds: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.fillet import FilletStep
from .. import refine
from ..context import Context, Report
from ..inputs import content, length_of


def work(run: Context, step: FilletStep, report: Report) -> None:
    radii = [length_of(run, g.radius) for g in step.groups]
    run.kept(content(run, step), report, lambda: refine.round_edges(step, radii, run.pointing(), run.state))
