"""A density of one's own: weighed with, kept with the part, guarded."""

import json

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.inspect.mass import mass
from sulvak_core.part.document import OwnMaterial
from sulvak_core.part.errors import Refusal
from sulvak_core.part.materials import LIBRARY, density_of

from .parts import plate

SOLDER = {"name": "Bearing metal", "value": 7300, "unit": "kg/m³", "source": "melt sheet of the workshop"}


@pytest.mark.parametrize(
    ("value", "unit", "grams"), [(7.3, "g/cm³", 7.3), (7300, "kg/m³", 7.3), (0.1, "lb/in³", 45.359237 / 16.387064)]
)
def test_a_density_in_every_unit(value: float, unit: str, grams: float) -> None:
    own = OwnMaterial.model_validate({"name": "own", "value": value, "unit": unit})
    assert density_of("own", [own]) == pytest.approx(grams, rel=1e-12)


def test_part_and_body_weigh_by_their_own_densities() -> None:
    made = plate()
    unnamed = {"name": "2.5 g/cm³", "value": 2.5}
    made.do("set_part", changes={"material": "2.5 g/cm³", "materials": [unnamed, SOLDER]})
    volume = made.build().state.bodies[0].solid.volume()
    assert mass(made.document, made.build().state)["mass"] == pytest.approx(volume * 2.5e-3, rel=1e-12)
    made.do("add_step", step={"kind": "body", "id": "s9", "body": "s2", "material": "Bearing metal"})
    assert mass(made.document, made.build().state)["mass"] == pytest.approx(volume * 7.3e-3, rel=1e-12)
    # a part file holds them: the mass does not hang on any list
    again = part_file.read(part_file.write(made.document))
    assert again.materials == made.document.materials


def test_what_something_is_made_of_cannot_go_and_names_stand_once() -> None:
    made = plate()
    made.do("set_part", changes={"material": "Bearing metal", "materials": [SOLDER]})
    with pytest.raises(Refusal, match="no material “Bearing metal”"):
        made.do("set_part", changes={"materials": []})
    with pytest.raises(Refusal, match="two materials called “Bearing metal”"):
        made.do("set_part", changes={"materials": [SOLDER, SOLDER]})
    made.do("set_part", changes={"material": "", "materials": []})
    with pytest.raises(Refusal, match="no material “Bearing metal”"):
        made.do("add_step", step={"kind": "body", "id": "s9", "body": "s2", "material": "Bearing metal"})


@pytest.mark.parametrize("value", [0, -1, float("nan"), float("inf"), 1e9])
def test_no_density_is_refused(value: float) -> None:
    with pytest.raises(Refusal):
        plate().do("set_part", changes={"materials": [{**SOLDER, "value": value}]})


def test_a_name_of_the_library_means_the_parts_own_where_it_has_one() -> None:
    name = LIBRARY[0].name
    made = plate()
    data = json.loads(part_file.write(made.document))
    data |= {"material": name, "materials": [{"name": name, "value": 3.5}]}
    document = part_file.read(json.dumps(data))
    assert density_of(document.material, document.materials) == 3.5


def test_every_material_has_its_family_and_source_once() -> None:
    assert len({m.name for m in LIBRARY}) == len(LIBRARY)
    assert all(0.1 < m.density < 25 and m.source and m.family for m in LIBRARY)
    assert {"Copper, brass, bronze", "Iron and steel"} <= {m.family for m in LIBRARY}
