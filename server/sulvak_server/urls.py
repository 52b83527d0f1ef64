"""Addresses: the API, sign-in, and the one page that holds the interface."""

from django.urls import path, re_path

from . import pages
from .api import api

handler500 = "sulvak_server.outage.uncaught"
urlpatterns = [
    path("api/sign-in", pages.sign_in),
    path("api/sign-out", pages.sign_out),
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/|live/|static/).*$", pages.interface),
]
