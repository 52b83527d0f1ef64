"""Materials and their densities, each with where the figure comes from; and those of a part's own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from .document import OwnMaterial
from .errors import Refusal
from .units import GRAMS_PER, MM_PER


@dataclass(frozen=True)
class Material:
    """A material of the library; ``density`` in g/cm³, which is mg/mm³. ``family`` puts like with like in lists."""

    name: str
    density: float
    source: str
    family: str


_AA = "nominal density of the alloy as registered with the Aluminum Association (EN 573-3 names)"
_CAST = "nominal density of the casting alloy of EN 1706"
_CDA = "nominal density of the alloy in the copper trade's data sheets (EN 1412 numbers)"
_EN_10088 = "EN 10088-1, annex E"
_CRC = "CRC Handbook of Chemistry and Physics, density of the elements at 20 °C"
_PLASTIC = "ISO 1183, typical of unfilled grades"
_FILLED = "ISO 1183, typical of the filled grade, dry"


def _family(name: str, *rows: tuple[str, float, str]) -> tuple[Material, ...]:
    return tuple(Material(material, density, source, name) for material, density, source in rows)


LIBRARY: tuple[Material, ...] = (
    *_family(
        "Aluminium",
        ("Aluminium EN AW-1050A", 2.71, _AA),
        ("Aluminium EN AW-2024", 2.78, _AA),
        ("Aluminium EN AW-5083", 2.66, _AA),
        ("Aluminium EN AW-5754 (AlMg3)", 2.67, _AA),
        ("Aluminium EN AW-6060", 2.70, _AA),
        ("Aluminium EN AW-6061", 2.70, _AA),
        ("Aluminium EN AW-6082", 2.70, _AA),
        ("Aluminium EN AW-7020", 2.78, _AA),
        ("Aluminium EN AW-7075", 2.81, _AA),
        ("Cast aluminium EN AC-43500 (AlSi10MnMg)", 2.65, _CAST),
        ("Cast aluminium EN AC-46000 (AlSi9Cu3)", 2.75, _CAST),
    ),
    *_family(
        "Iron and steel",
        ("Steel, unalloyed", 7.85, "EN 1991-1-1, table A.4 gives 77.0–78.5 kN/m³"),
        ("Stainless steel 1.4301", 7.90, _EN_10088),
        ("Stainless steel 1.4305", 7.90, _EN_10088),
        ("Stainless steel 1.4404", 8.00, _EN_10088),
        ("Stainless steel 1.4462", 7.80, _EN_10088),
        ("Cast iron EN-GJL-250 (grey)", 7.20, "EN 1561, annex A"),
        ("Cast iron EN-GJS-400-15 (spheroidal)", 7.10, "EN 1563, annex on properties"),
        ("Cast steel GE240", 7.80, "EN 10293 grade; EN 1991-1-1, table A.4"),
    ),
    *_family(
        "Copper, brass, bronze",
        ("Copper, pure", 8.96, _CRC),
        ("Brass CW508L (CuZn37)", 8.44, _CDA),
        ("Brass CW614N", 8.47, _CDA),
        ("Bronze CW453K (CuSn8)", 8.80, _CDA),
        ("Cast bronze CC483K (CuSn12)", 8.60, _CDA),
        ("Aluminium bronze CW307G (CuAl10Ni5Fe4)", 7.60, _CDA),
    ),
    *_family(
        "Other metals",
        ("Lead, pure", 11.34, _CRC),
        ("Magnesium AZ91", 1.81, "ASTM B94 alloy; alloy data"),
        ("Titanium grade 2", 4.51, "ASTM B348 grade 2; alloy data"),
        ("Titanium grade 5", 4.43, "ASTM B348 grade 5; alloy data"),
        ("Tungsten, pure", 19.25, _CRC),
        ("Zinc ZP5 (ZnAl4Cu1)", 6.70, "EN 1774 and EN 12844, alloy data"),
    ),
    *_family(
        "Plastics",
        ("ABS", 1.05, _PLASTIC),
        ("PA 6", 1.14, _PLASTIC + ", dry"),
        ("PA 12", 1.01, _PLASTIC + ", dry"),
        ("PA 66", 1.14, _PLASTIC + ", dry"),
        ("PA 66 + 30 % glass", 1.36, _FILLED),
        ("PE-HD", 0.95, _PLASTIC),
        ("PE-UHMW", 0.93, _PLASTIC),
        ("PEEK", 1.30, _PLASTIC),
        ("PET", 1.38, _PLASTIC),
        ("PLA", 1.24, _PLASTIC),
        ("PMMA", 1.19, _PLASTIC),
        ("Polycarbonate", 1.20, _PLASTIC),
        ("POM-C (acetal)", 1.41, _PLASTIC),
        ("PP", 0.905, _PLASTIC),
        ("PTFE", 2.17, _PLASTIC),
        ("PVC-U", 1.40, _PLASTIC),
    ),
    *_family("Wood", ("Beech wood", 0.72, "EN 350 mean at 12 % moisture")),
)
_BY_NAME = {m.name: m for m in LIBRARY}

# g/cm³ in one of the units a density is given in
PER_UNIT = {"g/cm³": 1.0, "kg/m³": 1e-3, "lb/in³": GRAMS_PER["lb"] / (MM_PER["in"] / 10) ** 3}


def density_of(name: str, own: Iterable[OwnMaterial] = ()) -> float | None:
    """The density in g/cm³ of a part's own material of that name, else of the library's; None if there is none."""
    mine = next((m for m in own if m.name == name), None)
    if mine is not None:
        return mine.value * PER_UNIT[mine.unit]
    found = _BY_NAME.get(name)
    return found.density if found else None


def known_material(name: str, own: Iterable[OwnMaterial] = ()) -> None:
    """Raises Refusal if a material is named that neither the part nor the library has; no name is no trouble."""
    if name and density_of(name, own) is None:
        raise Refusal(
            f"There is no material “{name}” in the library; choose one from the list, or give a density of its own.",
            material=name,
        )


def checked_own(own: list[OwnMaterial], used: set[str]) -> None:
    """Raises Refusal where names stand twice, or one of ``used``, of which something is made, is not there.

    A name that the library has too means the part's own: a file keeps its mass when the library grows."""
    names = [m.name for m in own]
    if len(set(names)) < len(names):
        twice = next(n for n in names if names.count(n) > 1)
        raise Refusal(f"There are two materials called “{twice}”; give one another name.")
    for name in used:
        known_material(name, own)
