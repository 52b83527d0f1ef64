"""Two released revisions held against each other."""

from typing import Any

from sulvak_core.steps.registry import load
from sulvak_core.steps.value_table import value_table

from .models import Revision


def compared(one: Revision, two: Revision) -> dict[str, Any]:
    """What is another in ``two`` than in ``one``."""
    return {
        "versions": (one.version, two.version),
        "sizes": _changes(_sizes(one), _sizes(two)),
        "callouts": _changes(_callouts(one), _callouts(two)),
        "figures": _figures(one, two),
        "files": _files(one, two),
    }


def _sizes(r: Revision) -> dict[str, tuple[str, str]]:
    rows = value_table(load(r.document))
    return {f"{row['step'] or ''}:{row['path']}": (row["name"] or row["what"], row["expr"]) for row in rows}


def _callouts(r: Revision) -> dict[str, tuple[str, str]]:
    return {c["id"]: (f"callout {c['number']}", c["text"] or c["worked"]) for c in r.document["callouts"]}


def _changes(before: dict[str, tuple[str, str]], after: dict[str, tuple[str, str]]) -> list[dict[str, str]]:
    found = []
    for key in dict.fromkeys([*before, *after]):
        old, new = before.get(key), after.get(key)
        if old is None or new is None or old[1] != new[1]:
            what = (new or old or ("", ""))[0]
            found.append({"what": what, "before": old[1] if old else "", "after": new[1] if new else ""})
    return found


def _figures(one: Revision, two: Revision) -> list[dict[str, Any]]:
    old, new = one.manifest["figures"], two.manifest["figures"]
    units = {"mass": "g", "volume": "mm³", "area": "mm²"}
    return [
        {"what": name, "unit": unit, "before": old[name], "after": new[name]}
        for name, unit in units.items()
        if old[name] != new[name]
    ]


def _files(one: Revision, two: Revision) -> list[dict[str, str]]:
    old, new = ({f["path"]: f["sha256"] for f in r.manifest["files"]} for r in (one, two))
    state = {(True, True): "another", (True, False): "gone", (False, True): "added"}
    return [
        {"path": path, "state": "the same" if old.get(path) == new.get(path) else state[path in old, path in new]}
        for path in sorted(old.keys() | new.keys())
    ]
