"""The service under test: real web server, worker, kernel processes and PostgreSQL, on a database of its own."""

from __future__ import annotations

import os
from collections.abc import Callable, Generator, Iterator

import pytest
from hypothesis import settings

from .examples import examples
from .service import PASSWORD, Client, Part, Service, drop_template, template_name

PAGE = pytest.StashKey[Callable[[], str]]()  # of a test that sits at a page: what that page shows

__all__ = ["PASSWORD", "Client", "Part", "Service"]

# continuous integration repeats the same generated cases, so that a change is judged by what it changes;
# everybody else's runs look for new ones. No test is timed: the machine may be busy with something else
settings.register_profile("ci", derandomize=True, deadline=None, max_examples=examples(100))
settings.register_profile("here", deadline=None, max_examples=examples(100))
settings.load_profile("ci" if os.environ.get("CI") else "here")


def pytest_configure(config: pytest.Config) -> None:
    template_name()  # the processes that run tests side by side are told it


def pytest_sessionfinish(session: pytest.Session) -> None:
    """The prepared database goes when all who copied it are done."""
    mine = "workerinput" not in vars(session.config) and "SULVAK_TEST_RUN_OF" not in os.environ
    if mine and "DATABASE_URL" in os.environ:
        drop_template()


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


@pytest.fixture(autouse=True)
def demo_is_left_alone(request: pytest.FixtureRequest) -> Iterator[None]:
    """The parts of the demo are looked at by all tests of a run; who changes one takes a copy."""
    if "service" not in request.fixturenames:
        yield
        return
    service: Service = request.getfixturevalue("service")
    yield
    now = service.parts(service.demo)
    changed = [name for ident, (name, digest) in service.demo.items() if now.get(ident, ("", ""))[1] != digest]
    service.demo = {ident: now[ident] for ident in service.demo if ident in now}  # told of once
    assert not changed, f"changed for all tests that come after: {changed}"


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item, call: pytest.CallInfo[None]
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """With a failure: what the page shows, and what server and worker wrote last."""
    report = yield
    if report.when == "call" and report.failed:
        if PAGE in item.stash:
            report.sections.append(("the page", item.stash[PAGE]()))
        funcargs: dict[str, object] = getattr(item, "funcargs", {})
        if isinstance(service := funcargs.get("service"), Service):
            report.sections.append(("the service", service.told()))
    return report


@pytest.fixture
def wren(service: Service) -> Client:
    return Client(service)
