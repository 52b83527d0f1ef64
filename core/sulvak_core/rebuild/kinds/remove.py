"""Bodies taken out: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.remove import RemoveStep
from .. import bodies
from ..context import Context, Report
from ..inputs import content


def work(run: Context, step: RemoveStep, report: Report) -> None:
    run.kept(content(run, step), report, lambda: bodies.remove_bodies(step, run.state))
