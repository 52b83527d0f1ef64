"""The service under test: real web server, worker, kernel processes and PostgreSQL, on a database of its own."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from hypothesis import settings

from .service import PASSWORD, Client, Part, Service

__all__ = ["PASSWORD", "Client", "Part", "Service"]

# continuous integration repeats the same generated cases, so that a change is judged by what it changes;
# everybody else's runs look for new ones. No test is timed: the machine may be busy with something else
settings.register_profile("ci", derandomize=True, deadline=None)
settings.register_profile("here", deadline=None)
settings.load_profile("ci" if os.environ.get("CI") else "here")


@pytest.fixture(scope="session")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    made = Service(tmp_path_factory.mktemp("service"))
    made.create()
    try:
        made.start_worker()
        made.start_web()
        client = Client(made)  # the first builds start the kernel processes, which takes long on a busy machine
        for name in ("Cross plate", "Pan hub"):
            client.part_named(name).built(120)
        yield made
    finally:
        made.close()
        made.drop()


@pytest.fixture
def wren(service: Service) -> Client:
    return Client(service)
