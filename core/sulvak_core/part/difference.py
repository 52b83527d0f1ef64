"""What changed between two JSON documents, as a JSON patch (RFC 6902) that speaks of changed things only.

Lists whose members carry an ``id`` (steps, entities, dimensions, callouts …) are compared member by member, by that
id: the work grows with the number of members, not with its square, and members that are the same object cost nothing.
In other lists what was taken out and put in is spoken of; lists of as many objects are compared place by place where
that says less.
"""

from __future__ import annotations

import marshal
import operator
from difflib import SequenceMatcher
from typing import Any

Op = dict[str, Any]
SHORT = 8  # members of a list, a place or a box, that is replaced rather than looked into


def difference(before: Any, after: Any) -> list[Op]:
    """The operations that make ``before`` into ``after``, both plain JSON data. Neither is changed."""
    ops: list[Op] = []
    _value("", before, after, ops)
    return ops


def _value(path: str, before: Any, after: Any, ops: list[Op]) -> None:
    if before is after or _written_alike(before, after):
        return
    if isinstance(before, dict) and isinstance(after, dict):
        _members(path, before, after, ops)
    elif isinstance(before, list) and isinstance(after, list) and (ids := _ids(before, after)):
        _by_id(path, before, after, ids, ops)
    elif isinstance(before, list) and isinstance(after, list) and before and after:
        _by_place(path, before, after, ops)
    elif not _same(before, after):
        ops.append({"op": "replace", "path": path, "value": after})


def _written_alike(before: Any, after: Any) -> bool:
    """Whether two objects or lists are equal to the letter, told without looking into them one by one. Not every two
    that are the same are told."""
    if type(before) is not type(after) or not isinstance(before, dict | list) or before != after:
        return False
    if isinstance(before, list) and all(map(operator.is_, before, after)):
        return True
    return marshal.dumps(before, 2) == marshal.dumps(after, 2)  # by value; true is not 1


def _same(before: Any, after: Any) -> bool:
    """Whether two values are the same JSON: true is not 1."""
    return bool(before == after) and isinstance(before, bool) == isinstance(after, bool)


def _records(value: Any) -> bool:
    """Whether a value is a list of objects."""
    return isinstance(value, list) and all(isinstance(x, dict) for x in value)


def _members(path: str, before: dict[str, Any], after: dict[str, Any], ops: list[Op]) -> None:
    for name in before:
        if name not in after:
            ops.append({"op": "remove", "path": f"{path}/{_token(name)}"})
    for name, value in after.items():
        where = f"{path}/{_token(name)}"
        if name in before:
            _value(where, before[name], value, ops)
        else:
            ops.append({"op": "add", "path": where, "value": value})


def _ids(before: list[Any], after: list[Any]) -> tuple[list[str], list[str]] | None:
    """The ids of both lists' members, None where members have none or two share one."""
    found: list[list[str]] = []
    for items in (before, after):
        ids = [i for x in items if isinstance(x, dict) and isinstance(i := x.get("id"), str)]
        if len(set(ids)) < len(items):
            return None
        found.append(ids)
    return (found[0], found[1]) if found[0] or found[1] else None


def _by_id(path: str, before: list[Any], after: list[Any], ids: tuple[list[str], list[str]], ops: list[Op]) -> None:
    wanted = dict(zip(ids[1], after, strict=True))
    places = {ident: i for i, ident in enumerate(ids[1])}
    now = [i for i in ids[0] if i in wanted]
    for i in range(len(ids[0]) - 1, -1, -1):
        if ids[0][i] not in wanted:
            ops.append({"op": "remove", "path": f"{path}/{i}"})
    there = set(now)
    for i, ident in enumerate(ids[1]):
        if i < len(now) and now[i] == ident:
            continue
        if ident not in there:
            ops.append({"op": "add", "path": f"{path}/{i}", "value": wanted[ident]})
            now.insert(i, ident)
        elif i + 1 < len(now) and now[i + 1] == ident:  # what stands here is what was moved
            to = min(places[now[i]], len(now) - 1)
            ops.append({"op": "move", "from": f"{path}/{i}", "path": f"{path}/{to}"})
            now.insert(to, now.pop(i))
        else:
            from_ = now.index(ident, i)
            ops.append({"op": "move", "from": f"{path}/{from_}", "path": f"{path}/{i}"})
            now.insert(i, now.pop(from_))
    old = dict(zip(ids[0], before, strict=True))
    for i, ident in enumerate(ids[1]):
        if ident in old:
            _value(f"{path}/{i}", old[ident], after[i], ops)


def _by_place(path: str, before: list[Any], after: list[Any], ops: list[Op]) -> None:
    """Lists whose members have no ids: what was taken out and put in, or, where fewer places of objects differ, each
    of these by itself."""
    records = _records(before) and _records(after)
    if not records and max(len(before), len(after)) < SHORT:
        ops.append({"op": "replace", "path": path, "value": after})  # they are not equal to the letter
        return
    old, new = ([marshal.dumps(x, 2) for x in items] for items in (before, after))  # by value, to the letter
    aligned = _aligned(old, new)
    fewer = aligned is None or sum(map(operator.ne, old, new)) <= sum(map(len, aligned))
    if records and len(before) == len(after) and fewer:
        for i, (one, other) in enumerate(zip(before, after, strict=True)):
            _value(f"{path}/{i}", one, other, ops)
        return
    if aligned is None:
        ops.append({"op": "replace", "path": path, "value": after})
        return
    gone, fresh = aligned
    ops += [{"op": "remove", "path": f"{path}/{i}"} for i in reversed(gone)]
    ops += [{"op": "add", "path": f"{path}/{i}", "value": after[i]} for i in fresh]


def _aligned(old: list[bytes], new: list[bytes]) -> tuple[list[int], list[int]] | None:
    """Places of what was taken out of a list and of what was put in; None where that is more than half of it."""
    gone: list[int] = []
    fresh: list[int] = []
    for how, a, b, c, d in SequenceMatcher(None, old, new).get_opcodes():
        if how != "equal":
            gone += range(a, b)
            fresh += range(c, d)
    return (gone, fresh) if 2 * (len(gone) + len(fresh)) <= len(new) else None


def _token(name: str) -> str:
    """A member's name as a JSON pointer (RFC 6901) writes it."""
    return name.replace("~", "~0").replace("/", "~1")
