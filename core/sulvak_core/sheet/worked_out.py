"""Callouts worked out from others: ``b4 - b5 - b5`` is what is left of 4 between two of 5.

The nominal is the arithmetic of the nominals. Its limits are the worst that the others' limits allow together: each at
the end of its own that makes the outcome largest, or smallest.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ..part.errors import ExpressionError
from ..part.expressions import Quantity, evaluate, names_in, tokens
from ..part.units import LengthUnit, number
from .requirement import Requirement

Others = Callable[[str], Requirement | None]


def used(expression: str) -> set[str]:
    """The ids of the callouts an expression speaks of. Raises ExpressionError where it cannot be read."""
    return names_in(expression)


def worked_out(expression: str, others: Others, unit: LengthUnit = "mm") -> Requirement:
    """The requirement that arithmetic over other callouts makes; a note where one of them is no size.

    Raises ExpressionError where the arithmetic itself cannot be read or comes to no length and no angle.
    """
    found = {name: others(name) for name in sorted(used(expression))}
    sizes = {name: r for name, r in found.items() if r is not None and r.nominal is not None and r.kind != "note"}
    if len(sizes) < len(found) or not sizes:
        return Requirement(kind="note")
    kind = "angle" if all(r.kind == "angle" for r in sizes.values()) else "length"
    nominals = {name: r.nominal or 0.0 for name, r in sizes.items()}

    def value(at: Mapping[str, float]) -> float:
        def look_up(name: str) -> Quantity:
            return Quantity(at[name], 0, 1) if sizes[name].kind == "angle" else Quantity(at[name], 1, 0)

        return evaluate(expression, kind, unit, look_up)  # type: ignore[arg-type]

    nominal = value(nominals)
    low, high = dict(nominals), dict(nominals)
    for name, r in sizes.items():
        rises = value({**nominals, name: nominals[name] * (1 + 1e-6) + 1e-9}) >= nominal
        ends = (nominals[name] + r.lower, nominals[name] + r.upper)
        low[name], high[name] = ends if rises else ends[::-1]
    if nominal < 0:
        raise ExpressionError("This comes to less than nothing; turn it round.", 0, len(expression))
    toleranced = any(r.toleranced for r in sizes.values())
    return Requirement(
        kind="angle" if kind == "angle" else "linear",
        nominal=nominal,
        lower=value(low) - nominal if toleranced else 0.0,
        upper=value(high) - nominal if toleranced else 0.0,
        toleranced=toleranced,
        reference=all(r.reference for r in sizes.values()),
        typed=f"{number(nominal, 9)}°" if kind == "angle" else f"{number(nominal, 9)} mm",
    )


def told(expression: str, numbers: Mapping[str, int], sizes: Mapping[str, Requirement]) -> str:
    """How it came about, in figures: “110 − 18 − 18”."""
    text = expression
    for name in sorted(used(expression), key=len, reverse=True):
        r = sizes.get(name)
        shown = number(r.nominal) if r is not None and r.nominal is not None else f"({numbers.get(name, '?')})"
        text = _put(text, name, shown)
    return text.replace("-", "−").replace("*", "×")


def _put(text: str, name: str, shown: str) -> str:
    found = [t for t in tokens(text) if t.kind == "name" and t.text == name]
    for t in reversed(found):
        text = text[: t.start] + shown + text[t.end :]
    return text
