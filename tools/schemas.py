"""Writes what follows from the models: the API's and the part file's schemas, from which the types are made."""

from __future__ import annotations

import json
import re
import sys
from typing import Any

from .places import ROOT


def texts() -> dict[str, str]:
    """Path → what it should hold."""
    import django

    django.setup()
    from sulvak_core.exchange.part_file import schema
    from sulvak_server.api import api

    made = api.get_openapi_schema()
    return {
        "docs/api.json": json.dumps(made, indent=1, sort_keys=True, ensure_ascii=False) + "\n",
        "docs/commands.json": json.dumps(_sent(made), indent=1, sort_keys=True, ensure_ascii=False) + "\n",
        "docs/part-file.schema.json": json.dumps(schema(), indent=1, sort_keys=True, ensure_ascii=False) + "\n",
    }


def _sent(made: dict[str, Any]) -> dict[str, Any]:
    """What is sent to change a part, by itself: in it fields with a default may be left out."""
    every, found = made["components"]["schemas"], {}
    wanted = ["CommandIn"]
    while wanted:
        name = wanted.pop()
        if name not in found:
            found[name] = every[name]
            wanted += re.findall(r'"#/components/schemas/([^"]+)"', json.dumps(every[name]))
    return {**{k: made[k] for k in ("openapi", "info")}, "paths": {}, "components": {"schemas": found}}


def main() -> int:
    """Write the files; with --check only compare, exit 1 if one is out of date."""
    stale = []
    for name, text in texts().items():
        path = ROOT / name
        if not path.exists() or path.read_text() != text:
            stale.append(name)
            if "--check" not in sys.argv:
                path.write_text(text)
    if stale and "--check" in sys.argv:
        print(f"Out of date: {', '.join(stale)}; run ./sulvak schemas.")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
