"""The web process: pages and API over HTTP, the live channel over WebSocket."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent.parent / "core"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "sulvak_server.settings")

from django.core.asgi import get_asgi_application

http = get_asgi_application()

import scipy.linalg  # noqa: E402 - now, and not under the hands of who drags first
import scipy.optimize  # noqa: E402
import scipy.sparse.csgraph  # noqa: E402, F401
from channels.auth import AuthMiddlewareStack  # noqa: E402
from channels.routing import ProtocolTypeRouter, URLRouter  # noqa: E402
from django.conf import settings  # noqa: E402
from django.urls import path  # noqa: E402

from live.consumers import PartChannel  # noqa: E402
from live.origin import SameOrigin  # noqa: E402

from .bodies import Bounded  # noqa: E402
from .leaving import Watched  # noqa: E402
from .logs import Numbered  # noqa: E402

ROUND_IT = 1_000_000  # bytes of a form beside its file

application = ProtocolTypeRouter(
    {
        "http": Numbered(Bounded(Watched(http), settings.UPLOAD_LIMIT + ROUND_IT)),
        "websocket": Numbered(
            SameOrigin(AuthMiddlewareStack(URLRouter([path("live/parts/<uuid:part>", PartChannel.as_asgi())])))
        ),
    }
)
