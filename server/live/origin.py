"""Who may open the live channel: pages that come from this very address, port included."""

from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import urlsplit

from channels.security.websocket import WebsocketDenier
from django.conf import settings
from django.http.request import split_domain_port, validate_host


class SameOrigin:
    """Lets a connection through whose origin is the host it is made to, one that is served here."""

    def __init__(self, application: Any) -> None:
        self.application = application

    async def __call__(self, scope: Any, receive: Callable[[], Awaitable[Any]], send: Any) -> Any:
        headers = {k.lower(): v.decode("latin-1") for k, v in scope.get("headers", [])}
        origin, host = urlsplit(headers.get(b"origin", "")).netloc.lower(), headers.get(b"host", "").lower()
        served = validate_host(split_domain_port(host)[0], settings.ALLOWED_HOSTS)
        if origin and origin == host and served:
            return await self.application(scope, receive, send)
        return await WebsocketDenier()(scope, receive, send)
