"""Bodies from files: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.import_file import ImportStep
from .. import bodies
from ..context import Context, Report
from ..tooling import StepFailure


def work(run: Context, step: ImportStep, report: Report) -> None:
    if not run.cache.has_file(step.file):
        raise StepFailure(f"The file {step.title or 'of this step'} is not here; bring it in again.")
    own = {"file": step.file, "id": step.id}
    run.kept(own, report, lambda: bodies.take_in(step, run.cache.file(step.file), run.state))
