"""Chamfers: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.chamfer import ChamferStep
from .. import refine
from ..context import Context, Report
from ..inputs import angle_of, content, length_of


def work(run: Context, step: ChamferStep, report: Report) -> None:
    first, second, angle = length_of(run, step.first), length_of(run, step.second), angle_of(run, step.angle)
    run.kept(
        content(run, step),
        report,
        lambda: refine.chamfer_edges(step, first, second, angle, run.pointing(), run.state),
    )
