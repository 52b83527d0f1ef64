"""A body named: what goes in, and the work on the part."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ...steps.kinds.body import BodyStep
from ..context import Context, Report
from ..inputs import content
from ..state import State
from ..tooling import Done, StepFailure


def work(run: Context, step: BodyStep, report: Report) -> None:
    if step.body not in {b.id for b in run.state.bodies}:
        raise StepFailure("The body this step names is gone; pick another.", pick="body")
    changes: dict[str, Any] = {
        k: v for k, v in (("title", step.title), ("colour", step.colour), ("material", step.material)) if v
    }
    named = [replace(b, **changes) if b.id == step.body else b for b in run.state.bodies]
    run.kept(content(run, step), report, lambda: Done(State(named), ""))
    report.volume_change = 0.0
