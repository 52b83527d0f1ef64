"""The HTTP API: one NinjaAPI, its errors as sentences, its rooms as routers."""

from typing import Any

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError
from ninja.security import django_auth
from procrastinate.exceptions import ConnectorException

from parts.routers import ROUTERS
from parts.service import Stale
from releases.router import router as releases
from sulvak_core.part.errors import Refusal, validation_words
from workspaces.access import NotAllowed, NotThere

from .outage import outage

api = NinjaAPI(title="Sulvak", version="1", auth=django_auth, docs_url=None, urls_namespace="api")


def _answer(request: HttpRequest, status: int, sentence: str, **more: Any) -> HttpResponse:
    return api.create_response(request, {"sentence": sentence, **more}, status=status)


@api.exception_handler(Refusal)
def refused(request: HttpRequest, error: Refusal) -> HttpResponse:
    return _answer(request, 422, error.sentence, detail=error.detail)


@api.exception_handler(NotThere)
def not_there(request: HttpRequest, error: NotThere) -> HttpResponse:
    return _answer(request, 404, "There is nothing here, or it is not yours to see.")


@api.exception_handler(NotAllowed)
def not_allowed(request: HttpRequest, error: NotAllowed) -> HttpResponse:
    return _answer(request, 403, error.sentence)


@api.exception_handler(AuthenticationError)
def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _answer(request, 401, "Sign in first.")


@api.exception_handler(OperationalError)
@api.exception_handler(InterfaceError)
@api.exception_handler(ConnectorException)
def no_database(request: HttpRequest, error: Exception) -> HttpResponse:
    told = outage(error)
    if told is None:
        raise error
    return _answer(request, *told)


@api.exception_handler(ValidationError)
def unreadable(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = error.errors[0] if error.errors else {}
    where, what = validation_words({**first, "loc": first.get("loc", [])[1:]})
    return _answer(request, 422, f"This request cannot be read: at {where}, {what}.")


@api.exception_handler(Stale)
def stale(request: HttpRequest, error: Stale) -> HttpResponse:
    from parts.view import part_view

    who = ", ".join(sorted({h["who"] or "somebody" for h in error.happened}))
    what = "; ".join(dict.fromkeys(h["what"] for h in error.happened[:5]))
    sentence = f"Meanwhile {who} {what}. Your change was not made; look at the part as it is now and do it again."
    view = part_view(error.part, None)
    return _answer(request, 409, sentence, part=view, happened=error.happened)


for router in (*ROUTERS, releases):
    api.add_router("", router)
