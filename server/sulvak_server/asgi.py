"""The web process: pages and API over HTTP, the live channel over WebSocket."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent.parent / "core"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "sulvak_server.settings")

from django.core.asgi import get_asgi_application

http = get_asgi_application()

from channels.auth import AuthMiddlewareStack  # noqa: E402
from channels.routing import ProtocolTypeRouter, URLRouter  # noqa: E402
from django.urls import path  # noqa: E402

from live.consumers import PartChannel  # noqa: E402
from live.origin import SameOrigin  # noqa: E402

application = ProtocolTypeRouter(
    {
        "http": http,
        "websocket": SameOrigin(
            AuthMiddlewareStack(URLRouter([path("live/parts/<uuid:part>", PartChannel.as_asgi())]))
        ),
    }
)
