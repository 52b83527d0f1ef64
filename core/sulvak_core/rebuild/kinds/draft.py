"""Drafts: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.draft import DraftStep
from .. import draft
from ..context import Context, Report
from ..inputs import angle_of, content, frame_key


def work(run: Context, step: DraftStep, report: Report) -> None:
    angles, other = [angle_of(run, g.angle) for g in step.groups], angle_of(run, step.other)
    own = content(run, step) | {"planes": [frame_key(f) for f in draft.planes(step, run.pointing())]}
    run.kept(own, report, lambda: draft.draft_faces(step, angles, other, run.pointing(), run.state))
