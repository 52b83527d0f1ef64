"""The content policy every answer carries: everything comes from here, nothing runs inline."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

_REST = (
    "default-src 'self'",
    "script-src 'self'",
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self'",
    "connect-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
)


def policy(style_nonce: str = "") -> str:
    """The policy; ``style_nonce`` lets in the style elements the page's own scripts make."""
    nonce = f" 'nonce-{style_nonce}'" if style_nonce else ""
    return "; ".join([f"style-src 'self'{nonce}", *_REST])


class ContentPolicy:
    """Adds the policy unless the answer has a stricter one of its own."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", policy())
        return response
