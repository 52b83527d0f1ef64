"""Asking for kernel work: jobs in PostgreSQL, serialised per part."""

import hashlib
import json
from typing import Any
from uuid import UUID

from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from parts.models import PartRecord
from sulvak_core.rebuild.version import KERNEL_VERSION

from .models import Artifact

BUILD, PREVIEW, EXPORT, ADVICE = 10, 50, 30, 5  # priorities; the higher goes first


def ask_for_build(part_id: UUID) -> None:
    """A build of whatever is the newest version when the job starts. Part of the caller's transaction."""
    app.configure_task("kernel.build", lock=f"part:{part_id}", priority=BUILD).defer(part=str(part_id))


def build_is_coming(part_id: UUID) -> bool:
    """Whether a build of this part is waiting or running."""
    return bool(builds_coming([part_id]))


def builds_coming(part_ids: list[UUID]) -> set[UUID]:
    """Those of some parts for which a build is waiting or running."""
    by_lock = {f"part:{ident}": ident for ident in part_ids}
    jobs = ProcrastinateJob.objects.filter(task_name="kernel.build", lock__in=by_lock, status__in=("todo", "doing"))
    return {by_lock[lock] for lock in jobs.values_list("lock", flat=True)}


def give_up(key: str) -> None:
    """Nobody waits for what is to be kept under ``key``: its job is taken out of the queue, or told to stop."""
    for job in ProcrastinateJob.objects.filter(args__key=key, status__in=("todo", "doing")):
        app.job_manager.cancel_job_by_id(job.id, abort=True, delete_job=True)


def ask_for_preview(part_id: UUID, window: str, turn: int, command: dict[str, Any]) -> None:
    app.configure_task("kernel.preview", lock=f"preview:{part_id}:{window}", priority=PREVIEW).defer(
        part=str(part_id), window=window, turn=turn, command=command
    )


def export_key(record: PartRecord, form: str, deviation: float | None) -> str:
    """Where the file of a part as it is now is kept."""
    content = json.dumps(record.document, sort_keys=True)
    named = f"{record.pk} {form} {deviation} {KERNEL_VERSION} {content}"
    return "x" + hashlib.sha256(named.encode()).hexdigest()


def ask_for_export(record: PartRecord, form: str, deviation: float | None) -> str:
    """Have a file of a part written as the part is now, unless there is one; its key. ``deviation`` in mm."""
    key = export_key(record, form, deviation)
    if not Artifact.objects.filter(key=key).exists():
        app.configure_task("kernel.export", lock=f"export:{key}", priority=EXPORT).defer(
            part=str(record.pk), version=record.version, form=form, deviation=deviation, key=key
        )
    return key


def ask(part_id: UUID, version: int, question: dict[str, Any], priority: int = PREVIEW) -> str:
    """Ask a kernel process a question about a part whose answer is JSON, unless it is known; the key of the answer.

    ``question["do"]`` names what the process is to do.
    """
    asked = json.dumps(question, sort_keys=True)
    key = "q" + hashlib.sha256(f"{part_id} {version} {asked} {KERNEL_VERSION}".encode()).hexdigest()
    if not Artifact.objects.filter(key=key).exists():
        app.configure_task("kernel.answer", lock=f"answer:{key}", priority=priority).defer(
            part=str(part_id), version=version, question=question, key=key
        )
    return key


def ask_for_state(part_id: UUID, version: int, step: str, side: str) -> str:
    """Ask for pictures of the part before or after a step, unless they are there; the key of the answer."""
    key = "a" + hashlib.sha256(f"{part_id} {version} {step} {side} {KERNEL_VERSION}".encode()).hexdigest()
    if not Artifact.objects.filter(key=key).exists():
        app.configure_task("kernel.state", lock=f"state:{key}", priority=PREVIEW).defer(
            part=str(part_id), version=version, step=step, side=side, key=key
        )
    return key


def ask_for_drawing(file_id: int, key: str) -> None:
    app.configure_task("kernel.drawing", lock=f"drawing:{key}", priority=EXPORT).defer(file=file_id, key=key)


def ask_for_pages(file_id: int, key: str, asked: dict[str, Any]) -> None:
    """Have a sheet read; ``asked["do"]`` names what the process is to do."""
    app.configure_task("kernel.pages", lock=f"pages:{key}", priority=EXPORT).defer(file=file_id, key=key, asked=asked)
