"""Where packages come from, as pip is told, handed on to what installs them."""

from __future__ import annotations

import pytest
from tools.setup import as_uv_takes_it


@pytest.mark.parametrize(
    ("told", "options", "env"),
    [
        ("", [], {}),
        ("global.timeout='60'\nnonsense\n", [], {}),
        ("global.index-url='file:///one/packages'\n", ["--default-index", "file:///one/packages"], {}),
        (
            "global.index-url='file:///one/packages'\n:env:.index-url='file:///two/packages'\n",
            ["--default-index", "file:///two/packages"],
            {},
        ),
        (
            "global.extra-index-url='file:///a/packages file:///b/packages'\n:env:.find-links='/wheels'\n",
            ["--index", "file:///a/packages", "--index", "file:///b/packages", "--find-links", "/wheels"],
            {},
        ),
        ("global.no-index='true'\nglobal.find-links='/wheels'\n", ["--find-links", "/wheels", "--no-index"], {}),
        ("global.no-index='false'\nglobal.cert='/etc/certs.pem'\n", [], {"SSL_CERT_FILE": "/etc/certs.pem"}),
    ],
)
def test_what_pip_is_told_is_handed_on(told: str, options: list[str], env: dict[str, str]) -> None:
    assert as_uv_takes_it(told) == (options, env)
