"""The page that holds the interface, and signing in and out."""

import json
import secrets
from datetime import timedelta

from axes.models import AccessFailureLog
from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from django.views.decorators.http import require_GET, require_POST

from .headers import policy


@require_GET
@ensure_csrf_cookie
def interface(request: HttpRequest) -> HttpResponse:
    """The interface's page; the browser takes it from there."""
    page = settings.WEB_DIST / "index.html"
    if not page.is_file():
        return HttpResponse(
            "The front end is not built yet; run ./sulvak start.", status=503, content_type="text/plain"
        )
    nonce = secrets.token_urlsafe(16)
    response = HttpResponse(page.read_text().replace("__NONCE__", nonce), content_type="text/html; charset=utf-8")
    response["Content-Security-Policy"] = policy(nonce)
    response["Cache-Control"] = "no-cache"
    return response


LONGEST = 10_000  # bytes of a name and a password


def _refused(sentence: str, status: int) -> JsonResponse:
    return JsonResponse({"sentence": sentence}, status=status)


def locked_out(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
    """The answer after too many failures."""
    return _refused("Too many tries; wait a minute and try again.", 429)


def _too_often(name: str, address: str) -> bool:
    """Whether a name was tried from anywhere, or any names from an address, more often than a person mistypes."""
    since = timezone.now() - timedelta(hours=settings.AXES_COOLOFF_TIME)
    lately = AccessFailureLog.objects.filter(attempt_time__gt=since)
    of_name = lately.filter(username=name).count()
    return of_name >= settings.NAME_FAILURES or (
        lately.filter(ip_address=address).count() >= settings.ADDRESS_FAILURES if address else False
    )


@require_POST
@csrf_protect
def sign_in(request: HttpRequest) -> HttpResponse:
    """Signs in with {"name", "password"}; slowed after failures."""
    try:
        data = json.loads(request.body) if len(request.body) < LONGEST else {}
        name, password = data["name"], data["password"]
    except (ValueError, KeyError, TypeError, RecursionError):
        return _refused("Give your name and your password.", 400)
    if not (isinstance(name, str) and isinstance(password, str)):
        return _refused("Give your name and your password.", 400)
    if _too_often(name, request.META.get("REMOTE_ADDR", "")):
        return locked_out(request)
    user = authenticate(request, username=name, password=password)
    if user is None:
        return _refused("Name and password do not match; try again.", 403)
    login(request, user)
    return JsonResponse({"ok": True})


@require_POST
@csrf_protect
def sign_out(request: HttpRequest) -> HttpResponse:
    logout(request)
    return JsonResponse({"ok": True})
