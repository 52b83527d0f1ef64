"""Shells: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.shell import ShellStep
from .. import refine
from ..context import Context, Report
from ..inputs import content, length_of


def work(run: Context, step: ShellStep, report: Report) -> None:
    thickness, own = length_of(run, step.thickness), [length_of(run, g.thickness) for g in step.own]
    run.kept(content(run, step), report, lambda: refine.shell_body(step, thickness, own, run.pointing(), run.state))
