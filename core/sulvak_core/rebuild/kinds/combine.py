"""Bodies combined: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.combine import CombineStep
from .. import bodies
from ..context import Context, Report
from ..inputs import content


def work(run: Context, step: CombineStep, report: Report) -> None:
    run.kept(content(run, step), report, lambda: bodies.combine_bodies(step, run.state))
