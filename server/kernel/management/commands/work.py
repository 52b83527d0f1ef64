"""``manage.py work``: take kernel jobs from the queue until told to stop."""

import asyncio
import contextlib
import logging
from datetime import UTC, datetime
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException

HEARTBEAT, STALLED, LOOK, PATIENCE = 2.0, 8.0, 0.5, 5.0  # seconds
log = logging.getLogger("sulvak.worker")


class Command(BaseCommand):
    help = "Run a kernel worker: jobs from PostgreSQL, kernel processes with limits."
    requires_system_checks: list[str] = []  # which would load the whole API

    def handle(self, *args: Any, **options: Any) -> None:
        from kernel.tasks import pool

        pool().warm()
        try:
            asyncio.run(self._work())
        finally:
            pool().close()

    async def _work(self) -> None:
        worker_app = app.with_connector(app.connector.get_worker_connector())
        async with worker_app.open_async():
            leaving = asyncio.Event()
            keeper = asyncio.create_task(_retake(worker_app, leaving))
            try:
                await worker_app.run_worker_async(
                    concurrency=settings.KERNEL_PROCESSES,
                    fetch_job_polling_interval=LOOK,  # a notice that comes during a look goes unheard
                    update_heartbeat_interval=HEARTBEAT,
                    stalled_worker_timeout=STALLED,
                    delete_jobs="always",
                )
            finally:
                await _ended(keeper, leaving)


async def _ended(keeper: asyncio.Task[None], leaving: asyncio.Event) -> None:
    """End the keeper. It is told, and only cancelled when it does not hear: a connection that breaks just then takes a
    cancellation for its own end, and who waited for the keeper waited for ever."""
    leaving.set()
    await asyncio.wait({keeper}, timeout=PATIENCE)
    keeper.cancel()


async def _retake(worker_app: Any, leaving: asyncio.Event) -> None:
    """Jobs whose worker was killed go back into the queue."""
    while not leaving.is_set():
        try:
            for job in await worker_app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED):
                log.info("taking up job %s again: its worker is gone", job.id)
                await worker_app.job_manager.retry_job_by_id_async(job.id, datetime.now(UTC))
        except ConnectorException:
            log.warning("the database does not answer; trying again")
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(leaving.wait(), HEARTBEAT)
