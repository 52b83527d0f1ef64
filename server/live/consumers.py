"""The live channel of one open part: drags answered as they happen, previews, builds, who is here."""

import asyncio
import json
import logging
import math
import time
from typing import Any
from uuid import UUID, uuid4

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncJsonWebsocketConsumer

from kernel.models import PreviewTurn
from kernel.queue import ask_for_preview
from parts.opened import opened
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.edit import taken
from sulvak_core.sketch.solve import Drag
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.shared import values_for
from sulvak_server import room
from sulvak_server.readable import odd, texts
from workspaces.access import NotAllowed, NotThere, part_for

from .events import Listener, group, tell

log = logging.getLogger("sulvak.live")
LONGEST = 2_000_000  # characters of a message
MOST = 200  # messages in a second
FARTHEST = 1e7  # mm
PRESENT: dict[str, dict[str, str]] = {}  # part → channel → name, in this web process


class PartChannel(AsyncJsonWebsocketConsumer):
    async def connect(self) -> None:
        self.ident = UUID(str(self.scope["url_route"]["kwargs"]["part"]))
        self.part = str(self.ident)
        self.window = uuid4().hex
        self.drag: Drag | None = None
        self.role = ""
        self.second = self.count = 0
        try:
            _, self.role = await database_sync_to_async(part_for)(self.scope["user"], self.ident)
        except NotThere:
            await self.close(4404)
            return
        Listener.ensure()
        await self.channel_layer.group_add(group(self.part), self.channel_name)
        await self.accept()
        PRESENT.setdefault(self.part, {})[self.window] = self.scope["user"].get_username()
        await self.send_json({"kind": "hello", "window": self.window})
        await self._presence()

    async def disconnect(self, code: int) -> None:
        await self.channel_layer.group_discard(group(self.part), self.channel_name)
        if PRESENT.get(self.part, {}).pop(self.window, None) is not None:
            await self._presence()

    async def _presence(self) -> None:
        people = sorted(set(PRESENT.get(self.part, {}).values()))
        event = {"kind": "present", "people": people}
        await self.channel_layer.group_send(group(self.part), {"type": "part.event", "event": event})

    async def part_event(self, message: dict[str, Any]) -> None:
        event = message["event"]
        if event.get("window") in (None, self.window):
            await self.send_json(event)

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None, **kwargs: Any) -> None:
        """What is no request is answered, and the channel goes on."""
        try:
            content = json.loads(text_data or "") if len(text_data or "") < LONGEST else None
        except (ValueError, RecursionError):
            content = None
        await self.receive_json(content)

    def _too_many(self) -> bool:
        """Whether more has come in this second than anybody's hand makes: it is passed over."""
        now = int(time.monotonic())
        self.count = self.count + 1 if now == self.second else 1
        self.second = now
        return self.count > MOST

    async def receive_json(self, content: Any, **kwargs: Any) -> None:
        if self._too_many():
            return
        handlers = {
            "drag_start": self._drag_start,
            "drag": self._drag,
            "drag_end": self._drag_end,
            "preview": self._preview,
        }
        kind = content.get("kind") if isinstance(content, dict) else None
        handler = handlers.get(kind) if isinstance(kind, str) else None
        if handler is None or any(odd(text) for text in texts(content)):
            await self.send_json({"kind": "refused", "sentence": "This request cannot be read."})
            return
        try:
            await handler(content)
        except Refusal as refusal:
            await self.send_json({"kind": "refused", "sentence": refusal.sentence, "turn": content.get("turn")})
        except (NotThere, NotAllowed):
            await self.close(4404)
        except (KeyError, TypeError, ValueError, OverflowError):
            await self.send_json({"kind": "refused", "sentence": "This request cannot be read."})

    # -- dragging: solved here as the pointer moves, stored as one command when it is let go --------

    async def _drag_start(self, content: dict[str, Any]) -> None:
        self.drag = await database_sync_to_async(self._taken)(str(content["step"]), str(content["ref"]))

    def _taken(self, ident: str, ref: str) -> Drag:
        record, _ = part_for(self.scope["user"], self.ident, "editor")
        document = opened(record).document
        step = document.step(ident)
        if not isinstance(step, SketchStep):
            raise Refusal("This sketch is no longer in the route.")
        return taken(step.sketch, values_for(document), ref)

    async def _drag(self, content: dict[str, Any]) -> None:
        if self.drag is None:
            return
        x, y = float(content["x"]), float(content["y"])
        if not (math.isfinite(x) and math.isfinite(y) and max(abs(x), abs(y)) <= FARTHEST):
            raise ValueError("a place that is none")
        started = time.perf_counter()
        entities = await asyncio.to_thread(_moved, self.drag, x, y)
        took = (time.perf_counter() - started) * 1000
        await self.send_json({"kind": "dragged", "turn": content.get("turn"), "entities": entities, "ms": took})

    async def _drag_end(self, content: dict[str, Any]) -> None:
        self.drag = None

    # -- previews ------------------------------------------------------------------------------------

    async def _preview(self, content: dict[str, Any]) -> None:
        turn, command = int(content["turn"]), content.get("command")
        if not 0 <= turn < 2**53 or not (command is None or isinstance(command, dict)):
            raise ValueError("no turn, or no command")
        await database_sync_to_async(self._ask)(turn, command)

    def _ask(self, turn: int, command: dict[str, Any] | None) -> None:
        record, _ = part_for(self.scope["user"], self.ident, "editor")
        if room.short():
            raise Refusal(room.FULL)
        PreviewTurn.objects.update_or_create(part=record, window=self.window, defaults={"turn": turn})
        if command is not None:
            ask_for_preview(record.pk, self.window, turn, command)


def _moved(drag: Drag, x: float, y: float) -> list[dict[str, Any]]:
    """What moves when it is dragged to a place; what stands where it stood the screen need not draw again."""
    pairs = zip(drag.sketch.entities, drag.to(x, y).entities, strict=True)
    return [e.model_dump(mode="json") for old, e in pairs if e is not old and e != old]


__all__ = ["PartChannel", "tell"]
