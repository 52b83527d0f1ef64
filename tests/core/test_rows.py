"""Every kind of equation: its derivative agrees with a numerical one at random places."""

import numpy as np
import pytest

from sulvak_core.sketch.rows import KINDS


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_derivative_is_exact(kind: str) -> None:
    evaluator, width, signs = KINDS[kind]
    rng = np.random.default_rng(7)
    for _ in range(40):
        v = rng.uniform(-1, 1, (width, 1))
        s = rng.choice([-1.0, 1.0], (max(signs, 1), 1))
        if kind == "TURN":
            s = rng.choice([np.pi, 2 * np.pi], (1, 1))
        value = rng.uniform(-0.3, 0.3, 1)
        _, exact = evaluator(v, s, value)
        for k in range(width):
            up, down = v.copy(), v.copy()
            up[k, 0] += 1e-6
            down[k, 0] -= 1e-6
            change = evaluator(up, s, value)[0] - evaluator(down, s, value)[0]
            if abs(change[0]) > 1:
                continue  # across the wrap of an angle
            assert exact[k] == pytest.approx(change[0] / 2e-6, abs=1e-5)
