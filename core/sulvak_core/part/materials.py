"""Materials and their densities in g/cm³, each with where the figure comes from."""

from __future__ import annotations

from dataclasses import dataclass

from .errors import Refusal


@dataclass(frozen=True)
class Material:
    """A material; ``density`` in g/cm³, which is mg/mm³."""

    name: str
    density: float
    source: str


_EN_AW = "EN 573-3 alloy; density as tabulated in EN 1999-1-1 and suppliers' EN 485 data"
LIBRARY: tuple[Material, ...] = (
    Material("Aluminium EN AW-5754 (AlMg3)", 2.67, _EN_AW),
    Material("Aluminium EN AW-6061", 2.70, _EN_AW),
    Material("Aluminium EN AW-6082", 2.70, _EN_AW),
    Material("Aluminium EN AW-7075", 2.81, _EN_AW),
    Material("Steel, unalloyed", 7.85, "EN 1991-1-1, table A.4 gives 77.0–78.5 kN/m³"),
    Material("Stainless steel 1.4301", 7.90, "EN 10088-1, table E.1"),
    Material("Stainless steel 1.4404", 8.00, "EN 10088-1, table E.1"),
    Material("Brass CW614N", 8.47, "EN 12164 alloy; alloy data of the copper trade"),
    Material("Copper, pure", 8.96, "CRC Handbook of Chemistry and Physics, density of the elements at 20 °C"),
    Material("Lead, pure", 11.34, "CRC Handbook of Chemistry and Physics, density of the elements at 20 °C"),
    Material("Titanium grade 5", 4.43, "ASTM B348 grade 5; alloy data"),
    Material("ABS", 1.05, "ISO 1183 typical of unfilled injection grades"),
    Material("Polycarbonate", 1.20, "ISO 1183 typical of unfilled injection grades"),
    Material("POM-C (acetal)", 1.41, "ISO 1183 typical of unfilled extrusion grades"),
    Material("PA 6", 1.14, "ISO 1183 typical of unfilled grades, dry"),
    Material("PA 66 + 30 % glass", 1.36, "ISO 1183 typical, dry"),
    Material("Beech wood", 0.72, "EN 350 mean at 12 % moisture"),
)
_BY_NAME = {m.name: m for m in LIBRARY}


def material(name: str) -> Material | None:
    """The material of that name, None if it is not in the library."""
    return _BY_NAME.get(name)


def known_material(name: str) -> None:
    """Raises Refusal if a material is named that the library does not have; no name is no trouble."""
    if name and material(name) is None:
        raise Refusal(f"There is no material “{name}” in the library; choose one from the list.", material=name)
