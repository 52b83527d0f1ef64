"""What happens to parts, told to every web process through PostgreSQL's NOTIFY."""

import asyncio
import json
import logging
from typing import Any

import psycopg
from channels.layers import get_channel_layer
from django.db import connection

CHANNEL = "sulvak_events"
log = logging.getLogger("sulvak.live")


def group(part: str) -> str:
    return f"part-{part}"


def tell(part: str, event: dict[str, Any]) -> None:
    """Tell everybody who has the part open. Carried out when the transaction commits; at most 8000 bytes."""
    text = json.dumps({"part": str(part), "event": event})
    if len(text.encode()) > 7900:
        text = json.dumps({"part": str(part), "event": {"kind": event["kind"], "large": True}})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, text])


class Listener:
    """One connection that listens, in each web process; started with the first open channel."""

    task: asyncio.Task[None] | None = None

    @classmethod
    def ensure(cls) -> None:
        loop = asyncio.get_running_loop()
        if cls.task is None or cls.task.done() or cls.task.get_loop() is not loop:
            cls.task = loop.create_task(cls._listen())

    @classmethod
    async def _listen(cls) -> None:
        parameters = connection.get_connection_params()
        wanted = {k: parameters[k] for k in ("dbname", "user", "password", "host", "port") if k in parameters}
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**wanted, autocommit=True) as listening:
                    await listening.execute(f"LISTEN {CHANNEL}")
                    async for notice in listening.notifies():
                        data = json.loads(notice.payload)
                        await get_channel_layer().group_send(
                            group(data["part"]), {"type": "part.event", "event": data["event"]}
                        )
            except psycopg.OperationalError:
                log.warning("the database does not answer; listening again in a second")
                await asyncio.sleep(1)
