"""What a line of the log belongs to: a request from a browser, or a piece of kernel work. No Django here, since kernel
processes write lines too."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

FORMAT = "{asctime} {levelname} {name} [{doing}]: {message}"
LONGEST = 200  # characters of a path that are told

_doing: ContextVar[str] = ContextVar("doing", default="-")
_number: ContextVar[str] = ContextVar("number", default="")


class Doing(logging.Filter):
    """Gives every line ``doing``: what was being done when it was written."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.doing = _doing.get()
        return True


@contextmanager
def doing(what: str) -> Iterator[None]:
    """Lines written meanwhile say that they belong to ``what``."""
    token = _doing.set(what)
    try:
        yield
    finally:
        _doing.reset(token)


def now() -> str:
    """What is being done here."""
    return _doing.get()


def number() -> str:
    """The number of the request that is being answered; empty outside one."""
    return _number.get()


def to_console() -> None:
    """Set logging up where no framework does: lines to stderr."""
    handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter(FORMAT, style="{"))
    handler.addFilter(Doing())
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)


Message = dict[str, Any]
App = Callable[[Message, Callable[[], Awaitable[Message]], Callable[[Message], Awaitable[None]]], Awaitable[None]]


class Numbered:
    """Gives every request a number, which its lines in the log carry and its answer tells (``X-Request-Id``)."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(
        self, scope: Message, receive: Callable[[], Awaitable[Message]], send: Callable[[Message], Awaitable[None]]
    ) -> None:
        own = secrets.token_hex(4)

        async def numbered(message: Message) -> None:
            if message["type"] == "http.response.start":
                message = {**message, "headers": [*message.get("headers", []), (b"x-request-id", own.encode())]}
            await send(message)

        path = ascii(str(scope.get("path", "")))[1:-1][:LONGEST]  # no line of the log can be made up from outside
        token = _number.set(own)
        try:
            with doing(f"{own} {scope.get('method', 'LIVE')} {path}"):
                await self.app(scope, receive, numbered)
        finally:
            _number.reset(token)
