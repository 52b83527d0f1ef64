"""Which lines are told to be parallel or square to one another, by the constraints alone."""

from __future__ import annotations

from .model import X_AXIS, Y_AXIS, Line, Sketch, Text


def bearings(sketch: Sketch) -> dict[str, tuple[str, int]]:
    """For every line and axis a leader and 0 or 1: parallel to the leader, or square to it.

    Lines with the same leader have a known bearing to each other; the axes lead where they can.
    """
    parent: dict[str, tuple[str, int]] = {}
    for ident in (X_AXIS, Y_AXIS, *(e.id for e in sketch.entities if isinstance(e, Line | Text))):
        parent[ident] = (ident, 0)

    def find(ident: str) -> tuple[str, int]:
        up, turn = parent[ident]
        if up == ident:
            return ident, 0
        top, more = find(up)
        parent[ident] = (top, turn ^ more)
        return parent[ident]

    def join(a: str, b: str, turn: int) -> None:
        (ra, ta), (rb, tb) = find(a), find(b)
        if ra != rb:
            lead, follow = (rb, ra) if rb == X_AXIS else (ra, rb)
            parent[follow] = (lead, ta ^ tb ^ turn)

    join(X_AXIS, Y_AXIS, 1)
    for c in sketch.constraints:
        lines = [r for r in c.refs if r in parent]
        if c.kind in ("horizontal", "vertical") and len(c.refs) == 1 and lines:
            join(X_AXIS, lines[0], int(c.kind == "vertical"))
        elif c.kind in ("parallel", "collinear") and len(lines) == 2:
            join(lines[0], lines[1], 0)
        elif c.kind == "offset":
            for old, new in zip(c.refs[::2], c.refs[1::2], strict=False):
                if old in parent and new in parent:
                    join(old, new, 0)
        elif c.kind == "perpendicular" and len(lines) == 2:
            join(lines[0], lines[1], 1)
    return {ident: find(ident) for ident in parent}
