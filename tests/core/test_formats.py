"""Part files of every format there was are read and build the same part; a changed format has another number."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal
from sulvak_core.part.migrations import FORMAT, STEPS, migrate
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache

KEPT = Path(__file__).parent / "formats"
# volume in mm³ of the tilt arm that each format's file holds, as it was built when the file was kept
VOLUMES = dict.fromkeys((1, 2, 3, 4, 5, 6, 7, 8), 22527.504868)


def shape_of(schema: Any) -> Any:
    """A schema without its words."""
    if isinstance(schema, dict):
        return {k: shape_of(v) for k, v in sorted(schema.items()) if k not in ("description", "title")}
    return [shape_of(v) for v in schema] if isinstance(schema, list) else schema


@pytest.mark.parametrize("version", range(1, FORMAT + 1))
def test_a_kept_file_of_each_format_builds_its_part(version: int) -> None:
    text = (KEPT / f"part-{version}.json").read_text()
    assert json.loads(text)["format_version"] == version
    document = part_file.read(text)
    assert document.format_version == FORMAT
    made = build(document, Cache())
    assert not made.failed, [r.said for r in made.failed]
    assert made.state.volume() == pytest.approx(VOLUMES[version], rel=1e-6)
    # what is written again is of today's format and the same part
    again = part_file.read(part_file.write(document))
    assert again == document


def test_the_number_goes_up_whenever_the_format_changes() -> None:
    """The schema of each format is remembered by its digest. Another schema is another format: a migration and a kept
    file of the one before; its digest goes into formats/digests.json."""
    digests = json.loads((KEPT / "digests.json").read_text())
    now = hashlib.sha256(json.dumps(shape_of(part_file.schema())).encode()).hexdigest()
    assert digests[str(FORMAT)] == now
    assert sorted(map(int, digests)) == list(range(1, FORMAT + 1)) == sorted([*STEPS, FORMAT])


def test_each_step_is_taken_once_and_what_is_given_stays() -> None:
    steps = {1: lambda d: {**d, "name": d["name"] + "a"}, 2: lambda d: {**d, "name": d["name"] + "b"}}
    old = {"format_version": 1, "name": ""}
    assert migrate(old, steps, 3) == {"format_version": 3, "name": "ab"}
    assert old == {"format_version": 1, "name": ""}
    assert migrate({"format_version": 2, "name": ""}, steps, 3)["name"] == "b"
    assert migrate({"format_version": 3, "name": ""}, steps, 3)["name"] == ""
    assert migrate([], steps, 3) == []


@pytest.mark.parametrize(("version", "said"), [(FORMAT + 1, "newer"), (0, "never"), ("1", "never"), (True, "never")])
def test_a_format_that_is_not_known_is_refused(version: object, said: str) -> None:
    with pytest.raises(Refusal, match="newer Sulvak" if said == "newer" else "there ever was"):
        part_file.read(json.dumps({"format": "sulvak-part", "format_version": version, "name": "n"}))
