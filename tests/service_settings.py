"""Settings of a service under test: as ever, but that a password takes a moment less to check. Hundreds of tests sign
in, and what makes guessing dear is Django's own and is not under test."""

from django.contrib.auth.hashers import PBKDF2PasswordHasher

from sulvak_server.settings import *  # noqa: F403


class Quick(PBKDF2PasswordHasher):
    """The same way of keeping passwords, gone over fewer times."""

    iterations = 1000


PASSWORD_HASHERS = ["tests.service_settings.Quick"]
