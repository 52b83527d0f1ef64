"""STEP files from outside: what is taken in as it was, what is refused, and why."""

from __future__ import annotations

import hashlib
import math
import re
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange import part_file, solid_files
from sulvak_core.naming.words import face as face_words
from sulvak_core.part.units import in_unit
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.rebuild.version import FILE, HAS
from sulvak_core.solid.incoming import DEEPEST, RECORDS, read_step, refuse
from sulvak_core.solid.measure import box
from sulvak_core.solid.shapes import KernelError, faces
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import rectangle


def pan_and_pin() -> Made:
    """Two bodies: a plate with a hole, and a pin beside it."""
    made = plate(name="Pan", number="P-1")
    made.sketch("s3", made.face("s2/end"), disc((10, 10), 3))
    made.extrude("s4", "s3", None, "cut", kind="through_all")
    made.sketch("s5", "top", disc((80, 0), 5))
    made.extrude("s6", "s5", "25", "new")
    made.do("add_step", step={"kind": "body", "id": "s7", "body": "s6", "title": "Stift ø10", "colour": "#336699"})
    return made


def written(made: Made) -> bytes:
    return solid_files.step(made.document, made.build().state)


@pytest.fixture(scope="module")
def data() -> bytes:
    return written(pan_and_pin())


class Shelf:
    """Files at hand, as the server and the command line have them."""

    def __init__(self, *files: bytes) -> None:
        self.files = {hashlib.sha256(f).hexdigest(): f for f in files}

    def get(self, key: str) -> bytes | None:
        if key.startswith(HAS):
            return b"yes" if key.removeprefix(HAS) in self.files else None
        return self.files.get(key.removeprefix(FILE)) if key.startswith(FILE) else None

    def put(self, key: str, data: bytes) -> None:
        assert not key.startswith(FILE)


class Asked:
    """Files that are there, and need not be read again."""

    def get(self, key: str) -> bytes | None:
        assert not key.startswith(FILE)
        return b"yes" if key.startswith(HAS) else None

    def put(self, key: str, data: bytes) -> None:
        pass


def taking(file: bytes, shelf: Shelf | None = None) -> Made:
    made = Made()
    made.cache = Cache(Shelf(file) if shelf is None else shelf)
    made.step("import", "s1", file=hashlib.sha256(file).hexdigest(), title="pan.step")
    return made


# -- what is taken in --------------------------------------------------------------------------------


def test_bodies_names_colours_and_sizes_come_back(data: bytes) -> None:
    pan, pin = read_step(data, "s1").bodies
    assert pan.solid.volume() == pytest.approx(12000 - 90 * math.pi, rel=1e-9)
    assert pin.solid.volume() == pytest.approx(625 * math.pi, rel=1e-9)
    assert (pin.name, pin.colour) == ("Stift ø10", "#336699")
    assert box(pin.solid.shape)[1] == pytest.approx((85, 5, 25), abs=1e-6)
    tags = [t for s in (pan, pin) for f in faces(s.solid.shape) for t in s.solid.face_tags(f)]
    assert tags == [f"s1/face/f{i + 1}" for i in range(len(tags))]  # each face a name of its own


@pytest.mark.parametrize(
    ("solid", "names"),
    [
        (b"", ["Pan s2", "Stift ø10"]),  # by their products
        (b"NONE", ["Pan s2", "Stift ø10"]),
        (b"Solid_1", ["Pan s2", "Stift ø10"]),
        (b"Keel", ["Keel", "Keel 2"]),  # the solid's own, told apart
        (b"H\\X2\\00FC\\X0\\lse", ["Hülse", "Hülse 2"]),
    ],
)
def test_bodies_are_named_by_what_says_something(data: bytes, solid: bytes, names: list[str]) -> None:
    named = data.replace(b"MANIFOLD_SOLID_BREP(''", b"MANIFOLD_SOLID_BREP('" + solid + b"'")
    assert [b.name for b in read_step(named, "s1").bodies] == names


def test_a_product_that_says_nothing_names_no_body(data: bytes) -> None:
    silent = re.sub(rb"PRODUCT\('[^']*','[^']*'", b"PRODUCT('NONE','Body1'", data)
    assert [b.name for b in read_step(silent, "s1").bodies] == ["", ""]


def test_units_of_the_file_are_honoured(data: bytes) -> None:
    metres = data.replace(b"SI_UNIT(.MILLI.,.METRE.)", b"SI_UNIT($,.METRE.)")
    assert metres != data
    assert read_step(metres, "s1").bodies[1].solid.volume() == pytest.approx(625 * math.pi * 1e9, rel=1e-9)


def test_the_step_makes_bodies_that_later_steps_work_on(data: bytes) -> None:
    made = taking(data)
    assert made.report("s1").sentence == "Take in the bodies of pan.step"
    assert made.report("s1").said == "Takes in 2 bodies."
    top = next(t for t in _tags(made) if _height(made, t) == pytest.approx(10))
    made.sketch("s2", {"kind": "face", "face": {"origins": [top]}}, rectangle(x=20, y=15, w=5, h=5, held=False))
    made.step("extrude", "s3", sketch="s2", operation="cut", extent={"kind": "depth", "depth": "2"})
    made.step("fillet", "s4", groups=[{"edges": [{"by": "around", "face": {"origins": [top]}}], "radius": "1"}])
    result = made.build()
    assert not result.failed
    assert result.state.volume() < result.states["s3"].volume()
    assert result.states["s3"].volume() == pytest.approx(12000 - 90 * math.pi + 625 * math.pi - 50, rel=1e-9)


def _tags(made: Made) -> list[str]:
    body = made.build().state.bodies[0]
    return [t for f in faces(body.shape) for t in body.solid.face_tags(f)]


def _height(made: Made, tag: str) -> float:
    from sulvak_core.solid.measure import surface

    body = made.build().state.bodies[0]
    face = next(f for f in faces(body.shape) if tag in body.solid.face_tags(f))
    s = surface(face)
    return s.at[2] if s.kind == "plane" and s.direction[2] > 0.9 else -1.0


def test_faces_are_said_by_their_file() -> None:
    assert face_words(["s1/face/f7"], lambda _: 10) == "face 7 of the file of step 10"


def test_a_file_that_is_not_at_hand_is_said_and_the_rest_stays(data: bytes) -> None:
    made = taking(data, Shelf())
    made.sketch("s2", "top", rectangle(w=10, h=10, held=False))
    made.extrude("s3", "s2", "10", "new")
    result = made.build()
    assert [r.said for r in result.failed] == ["The file pan.step is not here; bring it in again."]
    assert result.state.volume() == pytest.approx(1000)


def test_it_is_kept_and_not_read_again(data: bytes) -> None:
    made = taking(data)
    made.build()
    shelf = made.cache.store
    made.cache.store = Asked()
    assert made.build().state.volume() == pytest.approx(12000 + 535 * math.pi, rel=1e-9)
    made.cache.store = Shelf()  # somebody who does not have the file, though what is made of it is kept
    assert [r.said for r in made.build().failed] == ["The file pan.step is not here; bring it in again."]
    made.cache.store = shelf
    assert not made.build().failed


@pytest.mark.parametrize(
    ("number", "well"), [("1.2E+001", True), ("1.2E+999", False), ("12.E-300", True), ("1.E0100", False)]
)
def test_exponents_of_three_digits_are_no_size(data: bytes, number: str, well: bool) -> None:
    text = data.replace(
        b"ENDSEC;\nEND-ISO", f"#9990 = CARTESIAN_POINT('',({number},0.,0.));\nENDSEC;\nEND-ISO".encode()
    )
    assert text != data
    if well:
        assert len(read_step(text, "s1").bodies) == len(read_step(data, "s1").bodies)
    else:
        with pytest.raises(KernelError, match="beyond all size"):
            read_step(text, "s1")


@pytest.mark.parametrize("name", ["Träger Ø8", "Кронштейн", "板 7", "Naïve ‘quoted’ \\ back", "Kite 🪁"])
def test_names_beyond_ascii_are_written_as_the_standard_says(name: str) -> None:
    made = plate(name=name)
    text = solid_files.step(made.document, made.build().state)
    assert text.isascii()
    assert all(f"\\X2\\{ord(ch):04X}\\X0\\".encode() in text for ch in name if 127 < ord(ch) < 0x10000)
    if max(map(ord, name)) < 0x10000:
        assert [b.name for b in read_step(text, "s1").bodies] == [name]


def test_the_command_line_finds_the_file_beside_the_part(data: bytes, tmp_path: Any, capsys: Any) -> None:
    from sulvak_core.command_line import main

    made = taking(data)
    (tmp_path / "part.json").write_text(part_file.write(made.document))
    assert main([str(tmp_path / "part.json"), "--mass"]) == 1
    assert "is not here" in capsys.readouterr().err
    (tmp_path / "anything.stp").write_bytes(data)
    assert main([str(tmp_path / "part.json"), "--mass"]) == 0
    assert f"{12000 + 535 * math.pi:.2f}" in capsys.readouterr().out


def test_the_part_file_keeps_the_step(data: bytes) -> None:
    made = taking(data)
    again = part_file.read(part_file.write(made.document))
    assert again.steps == made.document.steps
    assert build(again, made.cache).state.volume() == pytest.approx(12000 + 535 * math.pi, rel=1e-9)


# -- what is refused ---------------------------------------------------------------------------------

HEAD = b"ISO-10303-21;HEADER;ENDSEC;DATA;"
TAIL = b"ENDSEC;END-ISO-10303-21;"
REFUSED = [
    (b"", "does not begin"),
    (b"%PDF-1.4 hello", "does not begin"),
    (b"solid cube\nfacet normal 0 0 1", "does not begin"),
    (HEAD, "cut short"),
    (HEAD + b"#1=X((1.0,NaN));" + TAIL, "numbers that are none"),
    (HEAD + b"#1=X((1.0,-inf));" + TAIL, "numbers that are none"),
    (HEAD + b"#1=X((1.0E999));" + TAIL, "numbers that are none"),
    (HEAD + b"#1=X(" + b"(" * 5000 + b")" * 5000 + b");" + TAIL, "parentheses"),
    (HEAD + b"#1=X((1.0);" + TAIL, "parentheses"),
    (HEAD + b"#1=X)(;" + TAIL, "parentheses"),
    (HEAD + TAIL, "no solid"),
    (HEAD + b"#1=CARTESIAN_POINT('',(0.,0.,0.));" + TAIL, "no solid"),
]


@pytest.mark.parametrize(("file", "words"), REFUSED)
def test_what_is_no_solid_is_refused_in_words(file: bytes, words: str) -> None:
    with pytest.raises(KernelError) as caught:
        read_step(file, "s1")
    assert words in caught.value.sentence
    assert caught.value.sentence.endswith(".")


def test_a_file_whose_geometry_lies_elsewhere_names_where(data: bytes) -> None:
    rest = re.sub(rb"MANIFOLD_SOLID_BREP", b"BOX_DOMAIN", data)
    elsewhere = rest.replace(
        b"ENDSEC;\nEND-ISO",
        b"#90001=DOCUMENT_FILE('mast.stp','',$,#90002,'',$);\n"
        b"#90003=DOCUMENT_FILE('it''s.stp','',$,#90002,'',$);\nENDSEC;\nEND-ISO",
    )
    assert elsewhere != rest
    with pytest.raises(KernelError, match=r"lies in other files \(mast\.stp, it's\.stp\); bring those"):
        read_step(elsewhere, "s1")


def test_a_record_that_is_there_twice_is_named(data: bytes) -> None:
    (line,) = re.findall(rb"\n#15 = [^;]*;", data)
    twice = data.replace(line, line + line.replace(b"#15 ", b"#0015"))
    with pytest.raises(KernelError, match="two records #15, and nobody can say which"):
        refuse(twice)


def test_too_much_is_refused_before_it_is_read() -> None:
    many = HEAD + b"#1=A();" * (RECORDS + 1) + TAIL
    with pytest.raises(KernelError, match="records"):
        refuse(many)
    with pytest.raises(KernelError, match="MB"):
        refuse(HEAD + b" " * 31_000_000 + TAIL)


def test_words_in_strings_and_comments_are_no_trouble(data: bytes) -> None:
    named = data.replace(b"'Stift", b"'nan inf ((((( it''s 1E999 Stift", 1)
    named = named.replace(b"DATA;", b"DATA; /* NaN ((( */", 1)
    assert named != data
    assert len(read_step(named, "s1").bodies) == 2


def test_an_open_shell_is_named(data: bytes) -> None:
    loose = re.sub(rb"MANIFOLD_SOLID_BREP\(('[^']*'),(#\d+)\)", rb"SHELL_BASED_SURFACE_MODEL(\1,(\2))", data)
    loose = loose.replace(b"CLOSED_SHELL", b"OPEN_SHELL").replace(b"ADVANCED_BREP_SHAPE", b"MANIFOLD_SURFACE_SHAPE")
    with pytest.raises(KernelError) as caught:
        read_step(loose, "s1")
    assert "loose surfaces but no closed solid" in caught.value.sentence


def test_a_solid_beyond_all_size_is_refused(data: bytes) -> None:
    huge = data.replace(b"SI_UNIT(.MILLI.,.METRE.)", b"SI_UNIT(.GIGA.,.METRE.)")
    with pytest.raises(KernelError, match="farther out"):
        read_step(huge, "s1")


def test_a_shell_with_a_face_left_out_is_refused(data: bytes) -> None:
    """A body that says it is closed, and is not."""
    shell = re.search(rb"CLOSED_SHELL\('',\(([^)]*)\)\)", data)
    assert shell
    short = shell.group(1).split(b",")[1:]
    broken = data.replace(shell.group(0), b"CLOSED_SHELL('',(" + b",".join(short) + b"))")
    with pytest.raises(KernelError) as caught:
        read_step(broken, "s1")
    assert "only 1 can be read" in caught.value.sentence


@settings(max_examples=examples(60), deadline=None)
@given(st.binary(max_size=200), st.integers(0, 60))
def test_the_guard_never_breaks(noise: bytes, depth: int) -> None:
    """Whatever stands between head and tail: an answer or a sentence, never another error."""
    file = HEAD + b"#1=X(" + b"(" * depth + noise + b")" * depth + b");" + TAIL
    try:
        refuse(file)
    except KernelError as error:
        assert error.sentence.endswith(".")
    else:
        assert depth <= DEEPEST


# -- what a file says of itself ----------------------------------------------------------------------------


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_what_a_file_says_of_its_volumes_is_checked(unit: str) -> None:
    made = plate()
    made.do("set_part", changes={"unit": unit})
    found = read_step(solid_files.step(made.document, made.build().state), "s1")
    assert (found.vouched, found.doubts) == (1, [])


def test_a_file_whose_solid_is_not_what_it_says_is_told() -> None:
    made = plate()
    text = solid_files.step(made.document, made.build().state).decode("latin-1")
    wrong = re.sub(r"VOLUME_MEASURE\(\s*[^)]*\)", "VOLUME_MEASURE(12500.)", text)
    assert wrong != text
    found = read_step(wrong.encode("latin-1"), "s1")
    assert found.vouched == 0
    assert in_unit(found.doubts[0], "mm") == "The file says that “Test piece” has 12500 mm³; read were 12000 mm³."
