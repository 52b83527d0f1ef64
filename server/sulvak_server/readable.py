"""Requests that hold what no text can be: told once, here, before anything reads them."""

import json
import re
from collections.abc import Callable, Iterator
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse

SENTENCE = "This request holds characters that no text can have; take them out and try again."
_ODD = re.compile(r"[\x00\ud800-\udfff]")  # a NUL, which the database does not take, and halves of characters
_ESCAPED = re.compile(rb"\\u(?:0000|[dD][89a-fA-F])")


def odd(text: str) -> bool:
    """Whether a text holds a NUL or half a character."""
    return _ODD.search(text) is not None


def texts(data: Any) -> Iterator[str]:
    """All keys and values of JSON data that are texts."""
    waiting = [data]
    while waiting:
        item = waiting.pop()
        if isinstance(item, str):
            yield item
        elif isinstance(item, dict):
            waiting += [*item.keys(), *item.values()]
        elif isinstance(item, list):
            waiting += item


class ReadableRequests:
    """Answers with a sentence what would end in an error of the database or of the answer's own encoding."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if odd(request.path) or any(odd(v) for pair in request.GET.items() for v in pair) or self._odd_body(request):
            return JsonResponse({"sentence": SENTENCE}, status=422)
        return self.get_response(request)

    @staticmethod
    def _odd_body(request: HttpRequest) -> bool:
        if request.content_type == "multipart/form-data":
            named = (f.name or "" for f in request.FILES.values())
            return any(odd(str(v)) for v in (*request.POST.values(), *named))
        if request.content_type != "application/json":
            return False
        body = request.body
        if b"\x00" not in body and not _ESCAPED.search(body):
            return False
        try:
            return any(odd(text) for text in texts(json.loads(body)))
        except (ValueError, RecursionError):
            return False  # no JSON at all, which its reader tells
