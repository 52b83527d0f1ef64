"""A worker that has to end does end, whatever breaks just then; whoever keeps it running starts it again."""

import asyncio
from types import SimpleNamespace
from typing import Any

import pytest
from procrastinate.exceptions import ConnectorException

from kernel.management.commands import work
from tests.service import carried_out


def test_a_connection_that_breaks_on_being_cancelled_holds_nobody(monkeypatch: pytest.MonkeyPatch) -> None:
    """The pool makes of a cancellation an error of its own, which the keeper takes for one more outage."""
    monkeypatch.setattr(work, "PATIENCE", 0.2)
    monkeypatch.setattr(work, "HEARTBEAT", 0.01)

    class Manager:
        async def get_stalled_jobs(self, **how: Any) -> list[Any]:
            try:
                await asyncio.sleep(60)
            except asyncio.CancelledError:
                raise ConnectorException from None
            return []

    async def run() -> bool:
        leaving = asyncio.Event()
        keeper = asyncio.create_task(work._retake(SimpleNamespace(job_manager=Manager()), leaving))
        await asyncio.sleep(0.05)
        await asyncio.wait_for(work._ended(keeper, leaving), 5)
        await asyncio.wait({keeper}, timeout=5)
        return keeper.done()

    assert carried_out(run())
