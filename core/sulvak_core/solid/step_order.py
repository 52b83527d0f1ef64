"""The records of a STEP file put in an order that follows from what they say alone.

The kernel writes styles of bodies in the order of its own memory, which is another each time. Here every record is
known by a digest of what it says, with the digests of what it refers to in place of their numbers; sets of styles are
sorted by these, and records numbered anew from the roots down.
"""

from __future__ import annotations

import hashlib
import re

RECORD = re.compile(r"#(\d+)\s*=\s*((?:[^';]|'(?:[^']|'')*')*);", re.DOTALL)
REFERENCE = re.compile(r"('(?:[^']|'')*')|#(\d+)")
SETS = ("MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION", "DRAUGHTING_MODEL")


def in_order(text: str) -> str:
    """The file with its records in order; the same solid, materials and colours."""
    start, end = text.index("DATA;") + len("DATA;"), text.rindex("ENDSEC;")
    records = {int(m[1]): _squeezed(m[2]) for m in RECORD.finditer(text[start:end])}
    refers = {n: [int(m[2]) for m in REFERENCE.finditer(body) if m[2]] for n, body in records.items()}
    digests = _digests(records, refers)
    for n, body in records.items():
        if body.startswith(SETS):
            members = sorted(refers[n][:-1], key=lambda r: digests[r])
            head, tail = body[: body.index("(#") + 1], body[body.rindex("),#") :]
            records[n] = head + ",".join(f"#{m}" for m in members) + tail
            refers[n] = [*members, refers[n][-1]]
    used = {r for refs in refers.values() for r in refs}
    number: dict[int, int] = {}
    for root in sorted((n for n in records if n not in used), key=lambda n: digests[n]):
        _number(root, refers, number)
    for n in sorted(records, key=lambda n: digests[n]):  # what only refers in circles
        _number(n, refers, number)
    lines = [
        f"#{new} = {REFERENCE.sub(lambda m: m[1] or f'#{number[int(m[2])]}', records[old])};"
        for old, new in sorted(number.items(), key=lambda p: p[1])
    ]
    return text[:start] + "\n" + "\n".join(lines) + "\n" + text[end:]


def _squeezed(body: str) -> str:
    """A record without the breaks of its lines."""
    return "".join(
        part if part.startswith("'") else re.sub(r"\s*\n\s*", "", part) for part in re.split(r"('(?:[^']|'')*')", body)
    ).strip()


def _digests(records: dict[int, str], refers: dict[int, list[int]]) -> dict[int, str]:
    """A digest of each record by what it says, whatever its number."""
    found: dict[int, str] = {}
    open_: set[int] = set()
    for start in records:
        stack = [start]
        while stack:
            n = stack[-1]
            if n in found:
                stack.pop()
                continue
            waiting = [r for r in refers[n] if r in records and r not in found and r not in open_]
            if waiting and n not in open_:
                open_.add(n)
                stack += waiting
                continue
            body = records[n]
            parts = [found.get(r, "") for r in refers[n]]
            if body.startswith(SETS):
                parts = [*sorted(parts[:-1]), *parts[-1:]]
            said = REFERENCE.sub(lambda m: m[1] or "#", body)
            found[n] = hashlib.sha256(f"{said}|{'|'.join(parts)}".encode()).hexdigest()
            open_.discard(n)
            stack.pop()
    return found


def _number(root: int, refers: dict[int, list[int]], number: dict[int, int]) -> None:
    """Numbers a record and all it refers to, itself first."""
    stack = [root]
    while stack:
        n = stack.pop()
        if n not in number and n in refers:
            number[n] = len(number) + 1
            stack += reversed(refers[n])
