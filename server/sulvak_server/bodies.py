"""How much may come in: a body that is too large is refused at once, and only so many large ones come in together.

What comes in is written to disk by Django while it comes (everything beyond FILE_UPLOAD_MAX_MEMORY_SIZE)."""

from __future__ import annotations

import json

from .logs import App, Message

LARGE = 1_000_000  # bytes from which on a body counts as large
TOO_LARGE = "This is larger than 20 MB. Make the file smaller and try again."
TOO_MANY = "Many files are being read in just now. Try again in a minute."


class _Refused(Exception):
    def __init__(self, status: int, sentence: str) -> None:
        super().__init__(sentence)
        self.status, self.sentence = status, sentence


class Bounded:
    """Refuses bodies of more than ``most`` bytes, said or not, and large ones while ``together`` are coming in."""

    def __init__(self, app: App, most: int, together: int = 64) -> None:
        self.app, self.most, self.together = app, most, together
        self.coming = 0
        self.heard = 5 * most

    async def __call__(self, scope: Message, receive, send) -> None:  # type: ignore[no-untyped-def]
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        said = dict(scope["headers"]).get(b"content-length", b"")
        length = int(said) if said.isdigit() else None
        large, begun, got = False, False, 0

        def count(size: int) -> None:
            nonlocal large
            if size > self.most:
                raise _Refused(413, TOO_LARGE)
            if size > LARGE and not large:
                if self.coming >= self.together:
                    raise _Refused(503, TOO_MANY)
                large = True
                self.coming += 1

        async def counted() -> Message:
            nonlocal got
            message: Message = await receive()
            got += len(message.get("body", b""))
            count(got)
            return message

        async def heard(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            count(length or 0)
            await self.app(scope, counted, heard)
        except _Refused as refused:
            if begun:
                raise
            # who is answered in the middle of sending does not hear it: what is not endless is let in, to nowhere
            while (length or 0) <= self.heard and got <= self.heard:
                message = await receive()
                got += len(message.get("body", b""))
                if message["type"] == "http.disconnect" or not message.get("more_body"):
                    break
            body = json.dumps({"sentence": refused.sentence}).encode()
            headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
            await send({"type": "http.response.start", "status": refused.status, "headers": headers})
            await send({"type": "http.response.body", "body": body})
        finally:
            self.coming -= large
