"""The equations of a sketch, each with its exact derivative, evaluated for all rows of a kind at once.

A row takes values from the vector of all sketch variables (index 0 is the ground, always 0).
Lengths come scaled by the sketch's size, so every residual is near 1 at most. With
u = b − a, v = d − c, ``×`` the plane cross product:

====== ============================== =========================================
kind   variables                      residual
====== ============================== =========================================
LINEAR up to six, coefficients k      Σ kᵢ·vᵢ − value
SPAN   p, q, r₁, r₂ (signs s₁, s₂)    |p − q| − s₁·r₁ − s₂·r₂ − value
OFF    p, a, b, r (sign s)            (u × (p − a)) / |u| − s·r − value
TURN   a, b, c, d (sign: period)      angle from u to v − value, wrapped to half a period either way
SAME   a, b, c, d                     |u| − |v|
SQUARE p, q, a, b                     ((q − p) · u) / |u|
MIDDLE p, q, a, b                     (u × (p − a) + u × (q − a)) / (2·|u|)
ALONG  p, q, c, r (sign: about what)  r · (turn from p to q about c) − value
ON_ELLIPSE p, c, m, n (sign: least)   least · (ρ − 1) − value, see below
LEAN   p, c, m, n, a, b (sign: turn)  cosine between the ellipse's normal at p and b − a − value
====== ============================== =========================================

An ellipse about c has half axes d = m − c and e = n − c. With w = p − c,
ρ² = (w·d)²/|d|⁴ + (w·e)²/|e|⁴ is 1 on it, and its normal there runs along (w·d)·d/|d|⁴ + (w·e)·e/|e|⁴.
LEAN with turn 1 asks for the direction a quarter turn from b − a instead.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]
Ints = NDArray[np.intp]

TINY = 1e-300


@dataclass(slots=True)
class Row:
    """One equation. ``vars`` are variable indices, ``signs`` its constant factors, ``owner`` who asked for it."""

    kind: str
    vars: tuple[int, ...]
    value: float
    owner: str
    signs: tuple[float, ...] = field(default=())


def _linear(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    return (s * v).sum(axis=0) - value, s.ravel()


def _unit(dx: Floats, dy: Floats) -> tuple[Floats, Floats, Floats]:
    size = np.sqrt(dx * dx + dy * dy)
    if size.min(initial=1.0) > 1e-14:
        return size, dx / size, dy / size
    safe = np.where(size > 1e-14, size, 1.0)
    ux, uy = dx / safe, dy / safe
    flat = size <= 1e-14
    if flat.any():
        ux, uy = np.where(flat, 1.0, ux), np.where(flat, 0.0, uy)
    return np.maximum(size, TINY), ux, uy


def _span(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    size, ux, uy = _unit(v[0] - v[2], v[1] - v[3])
    f = size - s[0] * v[4] - s[1] * v[5] - value
    return f, np.concatenate([ux, uy, -ux, -uy, -s[0], -s[1]])


def _cross_off(px: Floats, py: Floats, v: Floats, at: int) -> tuple[Floats, tuple[Floats, ...]]:
    """Signed distance of p from the line a→b whose variables start at column ``at``; with derivatives p, a, b."""
    ax, ay, bx, by = (v[at + i] for i in range(4))
    size, ux, uy = _unit(bx - ax, by - ay)
    safe = np.maximum(size, 1e-14)
    along = ux * (px - ax) + uy * (py - ay)
    f = ux * (py - ay) - uy * (px - ax)
    k = along / safe
    # moving b sideways turns the line: ∂f/∂b = −k·n, ∂f/∂a = −(1−k)·n with n = (−uy, ux)
    return f, (-uy, ux, (1 - k) * uy, -(1 - k) * ux, k * uy, -k * ux)


def _off(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    f, d = _cross_off(v[0], v[1], v, 2)
    return f - s[0] * v[6] - value, np.concatenate([*d, -s[0]])


def _middle(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    f1, d1 = _cross_off(v[0], v[1], v, 4)
    f2, d2 = _cross_off(v[2], v[3], v, 4)
    ends = [(d1[i] + d2[i]) / 2 for i in range(2, 6)]
    return (f1 + f2) / 2 - value, np.concatenate([d1[0] / 2, d1[1] / 2, d2[0] / 2, d2[1] / 2, *ends])


def _turn(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    lu, ux, uy = _unit(v[2] - v[0], v[3] - v[1])
    lv, wx, wy = _unit(v[6] - v[4], v[7] - v[5])
    angle = np.arctan2(ux * wy - uy * wx, ux * wx + uy * wy) - value
    turn = s[0]
    f = (angle + turn / 2) % turn - turn / 2
    lu, lv = np.maximum(lu, 1e-14), np.maximum(lv, 1e-14)
    du = (uy / lu, -ux / lu)  # turning u forward lowers the angle
    dv = (-wy / lv, wx / lv)
    return f, np.concatenate([-du[0], -du[1], du[0], du[1], -dv[0], -dv[1], dv[0], dv[1]])


def _same(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    lu, ux, uy = _unit(v[2] - v[0], v[3] - v[1])
    lv, wx, wy = _unit(v[6] - v[4], v[7] - v[5])
    return lu - lv - value, np.concatenate([-ux, -uy, ux, uy, wx, wy, -wx, -wy])


def _square(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    px, py, qx, qy, ax, ay, bx, by = (v[i] for i in range(8))
    size, ux, uy = _unit(bx - ax, by - ay)
    size = np.maximum(size, 1e-14)
    dx, dy = qx - px, qy - py
    f = dx * ux + dy * uy
    bend = (uy * dx - ux * dy) / size  # ∂f/∂b = bend · (uy, −ux)
    return f - value, np.concatenate([-ux, -uy, ux, uy, -bend * uy, bend * ux, bend * uy, -bend * ux])


def _along(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    """Length of an arc counter-clockwise from p to q; the turn is taken within half a turn of ``s``."""
    px, py, qx, qy = v[0] - v[4], v[1] - v[5], v[2] - v[4], v[3] - v[5]
    r, about = v[6], s[0]
    turn = np.arctan2(px * qy - py * qx, px * qx + py * qy)
    turn = about + (turn - about + np.pi) % (2 * np.pi) - np.pi
    pp, qq = np.maximum(px * px + py * py, 1e-28), np.maximum(qx * qx + qy * qy, 1e-28)
    dp, dq = (r * py / pp, -r * px / pp), (-r * qy / qq, r * qx / qq)
    f = r * turn - value
    return f, np.concatenate([dp[0], dp[1], dq[0], dq[1], -dp[0] - dq[0], -dp[1] - dq[1], turn])


def _ellipse(v: Floats) -> tuple[Floats, ...]:
    """w, d, e of the rows' ellipses, each as x and y; columns p, c, m, n."""
    cx, cy = v[2], v[3]
    return v[0] - cx, v[1] - cy, v[4] - cx, v[5] - cy, v[6] - cx, v[7] - cy


def _on_ellipse(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    wx, wy, dx, dy, ex, ey = _ellipse(v)
    grown = np.zeros_like(wx)
    by_w = [np.zeros_like(wx), np.zeros_like(wx)]
    by_axis = []
    for ax, ay in ((dx, dy), (ex, ey)):
        size = np.maximum(ax * ax + ay * ay, 1e-28)
        along = (wx * ax + wy * ay) / size
        grown = grown + along * along
        # ∂(along²)/∂w = 2·along·a/|a|²; ∂(along²)/∂a = 2·along·(w − 2·along·a)/|a|²
        by_w[0] = by_w[0] + 2 * along * ax / size
        by_w[1] = by_w[1] + 2 * along * ay / size
        by_axis += [2 * along * (wx - 2 * along * ax) / size, 2 * along * (wy - 2 * along * ay) / size]
    rho = np.sqrt(np.maximum(grown, 1e-28))
    k = s[0] / (2 * rho)
    px, py, mx, my, nx, ny = (k * g for g in (*by_w, *by_axis))
    return s[0] * (rho - 1) - value, np.concatenate([px, py, -px - mx - nx, -py - my - ny, mx, my, nx, ny])


def _lean(v: Floats, s: Floats, value: Floats) -> tuple[Floats, Floats]:
    wx, wy, dx, dy, ex, ey = _ellipse(v)
    bx, by = v[10] - v[8], v[11] - v[9]
    ux, uy = np.where(s[0] > 0.5, -by, bx), np.where(s[0] > 0.5, bx, by)
    gx, gy = np.zeros_like(wx), np.zeros_like(wx)
    # derivatives of the normal g by w, d and e: two rows of each 2 × 2 block
    jac: list[tuple[Floats, Floats, Floats, Floats]] = []
    ww = [np.zeros_like(wx) for _ in range(3)]
    for ax, ay in ((dx, dy), (ex, ey)):
        size = np.maximum(ax * ax + ay * ay, 1e-28)
        dot, four = wx * ax + wy * ay, size * size
        gx, gy = gx + dot * ax / four, gy + dot * ay / four
        ww = [ww[0] + ax * ax / four, ww[1] + ax * ay / four, ww[2] + ay * ay / four]
        k = 4 * dot / (four * size)
        jac.append(
            (
                (ax * wx + dot) / four - k * ax * ax,
                ax * wy / four - k * ax * ay,
                ay * wx / four - k * ay * ax,
                (ay * wy + dot) / four - k * ay * ay,
            )
        )
    g2, u2 = np.maximum(gx * gx + gy * gy, 1e-28), np.maximum(ux * ux + uy * uy, 1e-28)
    size = np.sqrt(g2 * u2)
    f = (gx * ux + gy * uy) / size
    # by g and by u, the change of their lengths included
    fgx, fgy = ux / size - f * gx / g2, uy / size - f * gy / g2
    fux, fuy = gx / size - f * ux / u2, gy / size - f * uy / u2
    pw = (fgx * ww[0] + fgy * ww[1], fgx * ww[1] + fgy * ww[2])
    (mx, my), (nx, ny) = ((fgx * j[0] + fgy * j[2], fgx * j[1] + fgy * j[3]) for j in jac)
    # u may be b − a turned a quarter: u = (−b_y, b_x)
    tx, ty = np.where(s[0] > 0.5, fuy, fux), np.where(s[0] > 0.5, -fux, fuy)
    parts = [*pw, -pw[0] - mx - nx, -pw[1] - my - ny, mx, my, nx, ny, -tx, -ty, tx, ty]
    return f - value, np.concatenate(parts)


LINEAR, SPAN, OFF, TURN, SAME, SQUARE, MIDDLE, ALONG, ON_ELLIPSE, LEAN = (
    "LINEAR",
    "SPAN",
    "OFF",
    "TURN",
    "SAME",
    "SQUARE",
    "MIDDLE",
    "ALONG",
    "ON_ELLIPSE",
    "LEAN",
)

Evaluator = Callable[[Floats, Floats, Floats], tuple[Floats, Floats]]
# kind: (evaluator, number of variables, number of signs)
KINDS: dict[str, tuple[Evaluator, int, int]] = {
    LINEAR: (_linear, 6, 6),
    SPAN: (_span, 6, 2),
    OFF: (_off, 7, 1),
    TURN: (_turn, 8, 1),
    SAME: (_same, 8, 0),
    SQUARE: (_square, 8, 0),
    MIDDLE: (_middle, 8, 0),
    ALONG: (_along, 7, 1),
    ON_ELLIPSE: (_on_ellipse, 8, 1),
    LEAN: (_lean, 12, 1),
}


class Batch:
    """Rows sorted by kind for evaluation at once.

    ``evaluate(x)`` gives residuals (m,), and the derivative as flat arrays (row, variable, value);
    derivatives by the ground variable are dropped by whoever assembles them.
    """

    def __init__(self, rows: list[Row]) -> None:
        self.count = len(rows)
        self.groups: list[tuple[Evaluator, Ints, Ints, Floats, Floats]] = []
        by_kind: dict[str, list[int]] = {}
        for i, row in enumerate(rows):
            by_kind.setdefault(row.kind, []).append(i)
        at, cols = [], []
        for kind, places in by_kind.items():
            evaluator, width, signs = KINDS[kind]
            none = (0,) * 6  # only a LINEAR row may have fewer variables than its kind
            these = [rows[i] for i in places]
            if kind == LINEAR:
                index = np.array([(row.vars + none)[:width] for row in these], dtype=np.intp).T
            else:
                index = np.array([row.vars for row in these], dtype=np.intp).T
            sign = np.array([(row.signs + none)[: max(signs, 1)] for row in these], dtype=float).T
            value = np.array([rows[i].value for i in places])
            where = np.array(places, dtype=np.intp)
            self.groups.append((evaluator, where, index, sign, value))
            at.append(np.tile(where, width))
            cols.append(index.ravel())
        self.rows = np.concatenate(at) if at else np.zeros(0, dtype=np.intp)
        self.cols = np.concatenate(cols) if cols else np.zeros(0, dtype=np.intp)

    def renumbered(self, small: Ints) -> Batch:
        """The same rows over variables ``small[v]``."""
        other = Batch.__new__(Batch)
        other.count, other.rows, other.cols = self.count, self.rows, small[self.cols]
        other.groups = [(e, where, small[index], sign, value) for e, where, index, sign, value in self.groups]
        return other

    def evaluate(self, x: Floats) -> tuple[Floats, Floats]:
        if len(self.groups) == 1:  # all rows of one kind stand in their order
            evaluator, _, index, sign, value = self.groups[0]
            return evaluator(x[index], sign, value)
        residual = np.zeros(self.count)
        parts = []
        for evaluator, where, index, sign, value in self.groups:
            f, d = evaluator(x[index], sign, value)
            residual[where] = f
            parts.append(d)
        return residual, np.concatenate(parts) if parts else np.zeros(0)
