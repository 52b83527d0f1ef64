"""Why a constraint is refused: what already fixes it, or the smallest set that fights it.

Accepted rows are independent, so the gradient of a dependent row is a combination of them in just
one way; the rows that take part in it (a circuit of the matroid) are the smallest set. A conflict
that only shows on the way (lengths 10, 10, 100 in a triangle) is narrowed down by leaving out one
constraint after the other (a deletion filter; Chinneck, *Feasibility and Infeasibility*, 2008, 6).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from .model import Sketch
from .rows import Batch, Floats
from .solve import STAGES, solve
from .system import Builder
from .variables import GROUND, INTERNAL, UNIT, System

FILTER_LIMIT = 40
MOST_ROWS = 1200  # rows up to which it is looked for what settles one: some seconds
EFFORT = 1800  # ties solved in all while a conflict is narrowed down: about a second


def full_jacobian(system: System) -> Floats:
    """Derivative of all rows by the variables they speak of (ground left out), nothing substituted."""
    batch = Batch(system.rows)
    _, entries = batch.evaluate(system.x)
    used, place = np.unique(np.append(batch.cols, GROUND), return_inverse=True)
    J = np.zeros((batch.count, len(used)))
    np.add.at(J, (batch.rows, place[:-1]), entries)
    return J[:, 1:]  # the ground comes first


def fixed_by(sketch: Sketch, values: Mapping[str, float], ident: str) -> list[str]:
    """Ids of the constraints and dimensions that together already settle ``ident``, where things are now.

    Empty if it is independent of them, as far as can be told from ``MOST_ROWS`` rows around it: what settles it is
    looked for among the rows next to it first, then ever farther away. Since there is but one such set, it does not
    matter how far.
    """
    system = Builder(sketch, values).build()
    around = _around(system, ident)
    for size in (*(n for n in (MOST_ROWS // 16, MOST_ROWS // 4) if n < len(around)), MOST_ROWS):
        near = sorted(around[:size])
        found, settled = _fixed_by(replace(system, rows=[system.rows[i] for i in near]), ident)
        if settled:
            break
    return sorted((o for o in found if not o.startswith(INTERNAL)), key=list(sketch.idents()).index)


def _around(system: System, ident: str) -> list[int]:
    """All rows, those of ``ident`` first, then by how many steps over shared variables lead to them."""
    touching: dict[int, list[int]] = defaultdict(list)
    for i, row in enumerate(system.rows):
        for v in row.vars:
            if v not in (GROUND, UNIT):
                touching[v].append(i)
    order = {i: None for i, row in enumerate(system.rows) if row.owner == ident}
    order |= {i: None for i, row in enumerate(system.rows) if set(row.vars) <= {GROUND, UNIT}}
    ahead = list(order)
    while ahead:
        beside = dict.fromkeys(j for i in ahead for v in system.rows[i].vars for j in touching.get(v, ()))
        ahead = [j for j in beside if j not in order]
        order |= dict.fromkeys(ahead)
    return list(order)


def _fixed_by(system: System, ident: str) -> tuple[list[str], bool]:
    """Owners of the rows of a system that settle those of ``ident``, and whether every one of these is settled."""
    J = full_jacobian(system)
    J /= np.maximum(np.linalg.norm(J, axis=1), 1e-14)[:, None]
    mine = [i for i, row in enumerate(system.rows) if row.owner == ident]
    others = [i for i, row in enumerate(system.rows) if row.owner != ident]
    if not mine or not others:
        return [], False
    # rows in the order they came: the earliest independent ones are the basis
    q, r, pivot = scipy.linalg.qr(J[others].T, mode="economic", pivoting=True, check_finite=False)
    d = np.abs(np.diag(r))
    rank = int((d > 1e-9 * max(d[0], 1e-300)).sum())
    owners: dict[str, None] = {}
    settled = True
    for g in _without_helpers(J, mine, others):
        share = q[:, :rank].T @ g
        if np.linalg.norm(g - q[:, :rank] @ share) > 1e-7:
            settled = False
            continue
        factor = scipy.linalg.solve_triangular(r[:rank, :rank], share)
        for k in np.flatnonzero(np.abs(factor) > 1e-7):
            owners[system.rows[others[pivot[k]]].owner] = None
    return list(owners), settled


def _without_helpers(J: Floats, mine: list[int], others: list[int]) -> Floats:
    """What some rows ask of the sketch once the helping variables that only they use (a contact) are done away with:
    the combinations of them that leave those variables alone."""
    own = (np.abs(J[mine]).max(axis=0) > 0) & ~(np.abs(J[others]).max(axis=0) > 0)
    helpers = J[mine][:, own]
    if not _shared_by_several(helpers):
        return J[mine]
    combined = scipy.linalg.null_space(helpers.T).T @ J[mine]
    return combined / np.maximum(np.linalg.norm(combined, axis=1), 1e-14)[:, None]


def _shared_by_several(helpers: Floats) -> bool:
    return bool(helpers.size and ((np.abs(helpers) > 0).sum(axis=0) > 1).any())


def without(sketch: Sketch, idents: set[str]) -> Sketch:
    """``sketch`` without these constraints and dimensions."""
    return sketch.model_copy(
        update={
            "constraints": [c for c in sketch.constraints if c.id not in idents],
            "dimensions": [d for d in sketch.dimensions if d.id not in idents],
        }
    )


def _ties(sketch: Sketch) -> list[str]:
    return [c.id for c in sketch.constraints] + [d.id for d in sketch.dimensions if d.driving]


def conflict(sketch: Sketch, values: Mapping[str, float], ident: str, missed: tuple[str, ...] = ()) -> list[str]:
    """A smallest set of ids, ``ident`` among them, that cannot hold together; in a large sketch one that is as small
    as could be found with a bounded effort."""
    circuit = fixed_by(sketch, values, ident)
    if circuit:
        return [*circuit, ident]
    keep = [o for o in missed if not o.startswith(INTERNAL)]
    every = _ties(sketch)
    if ident not in keep:
        keep.append(ident)

    spent = 0

    def fights(chosen: list[str]) -> bool:
        nonlocal spent
        spent += 2 * len(chosen)
        return not solve(without(sketch, set(every) - set(chosen)), values, STAGES[:1]).solved

    if not fights(keep):
        keep = [*keep, *(t for t in every if t not in keep)][:FILTER_LIMIT]
        if not fights(keep):
            return every
    for candidate in [k for k in reversed(keep) if k != ident]:  # what misses least is the least likely to be needed
        if spent > EFFORT:
            break
        fewer = [k for k in keep if k != candidate]
        if fights(fewer):
            keep = fewer
    return keep
