"""Part documents of earlier formats, read as today's. ``FORMAT`` goes up whenever the part file's schema changes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from .errors import Refusal

FORMAT = 8
# how data of a format become data of the next; what is given is not changed
STEPS: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: lambda data: data,  # ribs came
    2: lambda data: data,  # worked-out callouts, general tolerances and DXF sheets came
    3: lambda data: data,  # further sheets, newer issues of them and views placed by hand came
    4: lambda data: data,  # the shop's limits and masses in ounces came
    5: lambda data: data,  # the drawing made from the part came
    6: lambda data: data,  # meshes held beside the part came
    7: lambda data: data,  # offsets of longer chains came
}


def migrate(
    data: Any, steps: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = STEPS, to: int = FORMAT
) -> Any:
    """JSON data of a document as the newest format has them; what is no document is left to validation.

    Raises Refusal for a format that is newer than this Sulvak, or that never was.
    """
    if not isinstance(data, dict):
        return data
    version = data.get("format_version", to)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise Refusal("This part file says no format version that there ever was.")
    if version > to:
        raise Refusal("This part file was written by a newer Sulvak; update this one to read it.")
    while version < to:
        data = {**steps[version](data), "format_version": version + 1}
        version += 1
    return data
