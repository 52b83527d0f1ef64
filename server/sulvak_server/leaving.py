"""Whether who asked has gone: a browser that closed its page, or whose person pressed stop. Waiting work looks here."""

from __future__ import annotations

import threading
from contextvars import ContextVar

from .logs import App, Message

_gone: ContextVar[threading.Event | None] = ContextVar("gone", default=None)


def gone() -> bool:
    """Whether nobody hears the answer to the present request any more."""
    event = _gone.get()
    return event is not None and event.is_set()


class Watched:
    """Notes when the one who sent a request leaves before it is answered."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Message, receive, send) -> None:  # type: ignore[no-untyped-def]
        event = threading.Event()

        async def heard() -> Message:
            message: Message = await receive()
            if message["type"] == "http.disconnect":
                event.set()
            return message

        token = _gone.set(event)
        try:
            await self.app(scope, heard, send)
        finally:
            _gone.reset(token)
