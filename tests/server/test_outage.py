"""What is answered when the database is away, by where the request meets it."""

import psycopg
import pytest
from django.db import OperationalError
from django.test import Client
from procrastinate.exceptions import ConnectorException

from sulvak_server.outage import database_away


def raised(outer: Exception, cause: Exception) -> Exception:
    try:
        raise outer from cause
    except Exception as error:
        return error


@pytest.mark.parametrize(
    ("error", "away"),
    [
        (OperationalError("gone"), True),
        (psycopg.InterfaceError("the connection is closed"), True),
        (raised(ConnectorException(), psycopg.OperationalError("server closed the connection")), True),
        (raised(ConnectorException(), psycopg.ProgrammingError("no such table")), False),
        (ZeroDivisionError(), False),
        (None, False),
    ],
)
def test_an_error_is_judged_by_what_it_came_of(error: BaseException | None, away: bool) -> None:
    assert database_away(error) is away


@pytest.mark.parametrize(
    ("error", "status", "words"),
    [
        (OperationalError("gone"), 503, "database does not answer"),
        (raised(ConnectorException(), psycopg.OperationalError("gone")), 503, "database does not answer"),
        (ZeroDivisionError(), 500, "Something went wrong"),
    ],
)
def test_outside_the_api_the_answer_is_a_sentence_too(
    monkeypatch: pytest.MonkeyPatch, error: Exception, status: int, words: str
) -> None:
    def fails(*args: object, **kwargs: object) -> None:
        raise error

    monkeypatch.setattr("sulvak_server.pages._too_often", lambda name, address: False)
    monkeypatch.setattr("sulvak_server.pages.authenticate", fails)
    client = Client(raise_request_exception=False)
    answer = client.post("/api/sign-in", {"name": "wren", "password": "x"}, "application/json")
    assert answer.status_code == status
    assert words in answer.json()["sentence"]
