"""Talking to the shop's inbox over HTTP on loopback. It is a stand-in, and may be down."""

import http.client
import json
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import Request, urlopen

from django.conf import settings

SECONDS = 10.0
LARGEST = 200_000  # bytes of an answer


class Unreachable(Exception):
    """The inbox does not answer, or not as one."""


def _ask(request: Request | str) -> tuple[int, dict[str, Any]]:
    try:
        with urlopen(request, timeout=SECONDS) as answer:
            return answer.status, _read(answer.read(LARGEST))
    except HTTPError as error:
        return error.code, _read(error.read(LARGEST))
    except (URLError, OSError, http.client.HTTPException) as error:
        raise Unreachable(f"The shop's inbox does not answer ({getattr(error, 'reason', error)}).") from None


def _read(data: bytes) -> dict[str, Any]:
    try:
        told = json.loads(data)
    except ValueError:
        raise Unreachable("What answers at the inbox's address is no inbox.") from None
    return told if isinstance(told, dict) else {}


def send(pack: bytes) -> str:
    """Hands a pack in; gives what it is known by there. Raises Unreachable."""
    headers = {"Content-Type": "application/zip"}
    status, told = _ask(Request(f"{settings.SHOP_INBOX}/packs", data=pack, headers=headers, method="POST"))
    if status != 202 or not isinstance(told.get("id"), str):
        raise Unreachable(f"The shop's inbox did not take the pack ({status}).")
    return str(told["id"])[:64]


def ask(ident: str) -> dict[str, Any] | None:
    """What has become of a pack: ``state`` and ``said``; None where the inbox does not know it. Raises Unreachable."""
    status, told = _ask(f"{settings.SHOP_INBOX}/packs/{ident}")
    if status == 404:
        return None
    said = [str(s)[:500] for s in told.get("said", [])][:50]
    if status != 200 or told.get("state") not in ("looking", "accepted", "rejected"):
        raise Unreachable(f"The shop's inbox says nothing that can be understood ({status}).")
    return {"state": told["state"], "said": said}
