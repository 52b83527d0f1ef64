"""Releases: what must hold, packs that are the same bytes again, and packs that are not what they say."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from functools import cache
from typing import Any

import ezdxf
import pytest
import trimesh
from shop_inbox.reader import reasons_against

from sulvak_core.inspect.report import body_picture
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.release import verify as verifying
from sulvak_core.release.letters import LETTERS, is_letter, next_letter
from sulvak_core.release.manifest import Release
from sulvak_core.release.pack import looked_over, pack
from sulvak_core.release.step_volume import step_volume
from sulvak_core.release.verify import verify
from sulvak_core.solid.step_order import in_order
from sulvak_core.steps.commands import read as read_command
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document

from .parts import disc, plate
from .test_sheet_lines import made, whole

KEPT = Cache()
AT = "2031-05-12T08:30:00Z"
REASONS = {"covered": "the arms are alike"}
RELEASE = Release("A", "wren", AT, "Fenmarsh Kite Survey", REASONS)


def changed(document: Document, *commands: dict[str, Any]) -> Document:
    for command in commands:
        document = apply(document, read_command(command)).document
    return document


def lines(document: Document) -> dict[str, tuple[bool, str]]:
    return {c.key: (c.holds, c.said) for c in looked_over(document, build(document, KEPT), "").conditions}


@cache
def lines_of(name: str) -> dict[str, tuple[bool, str]]:
    return lines(whole(name))


@cache
def packed(name: str = "cross-plate") -> bytes:
    document = whole(name)
    return pack(document, made(document), RELEASE)


def contents(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as z:
        return {i.filename: z.read(i) for i in z.infolist()}


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name, data in files.items():
            z.writestr(name, data)
    return out.getvalue()


def test_letters_leave_out_those_that_look_like_figures() -> None:
    run = ["A"]
    for _ in range(420):
        run.append(next_letter(run[-1]))
    assert "".join(run[:20]) == LETTERS and not set("IOQSXZ") & set("".join(run))
    assert run[20:23] == ["AA", "AB", "AC"] and run[-1] == "AAA"
    assert len(set(run)) == len(run) and all(map(is_letter, run))
    assert next_letter("2") == "A" and not is_letter("I") and not is_letter("") and not is_letter("a")


@pytest.mark.parametrize("name", ["pan-hub", "tilt-arm", "line-cleat"])
def test_a_finished_part_holds(name: str) -> None:
    found = lines_of(name)
    assert all(holds for key, (holds, _) in found.items() if key != "covered"), found


BREAKS: list[tuple[str, list[dict[str, Any]], str]] = [
    ("identity", [{"do": "set_part", "changes": {"number": ""}}], "" ),
    ("identity", [{"do": "set_part", "changes": {"revision": "4"}}], "no revision letter"),
    ("built", [{"do": "set_hold", "step": "s2"}], "held after step 20"),
    ("built", [{"do": "set_expression", "step": "s8", "path": "first", "expr": "90"}], "cannot be built"),
    ("suppressed", [{"do": "set_step", "step": "s8", "changes": {"suppressed": True}}], "no note says why"),
    ("constrained", [{"do": "sketch_delete", "step": "s5", "ids": ["d3"]}], "still free: Sketch 50 (1 left)"),
    ("proven", [{"do": "set_expression", "step": "s1", "path": "d3", "expr": "91"}], "measures 91"),
    ("mass", [{"do": "set_part", "changes": {"target_mass": None}}], "no target"),
    ("mass", [{"do": "set_part", "changes": {"target_mass": {"grams": 70, "tolerance": 1}}}], "target 70 g"),
    ("check-walls", [{"do": "set_part", "changes": {"shop": {"asked": ["walls"], "walls": {"least": 6}}}}], "thinner"),
    ("drawing", [{"do": "set_drawing", "changes": {"scale": "20:1"}}], "does not fit"),
]  # fmt: skip


@pytest.mark.parametrize(("key", "commands", "says"), BREAKS)
def test_what_does_not_hold_is_told(key: str, commands: list[dict[str, Any]], says: str) -> None:
    assert lines_of("tilt-arm").get(key, (True, ""))[0]
    try:
        document = changed(whole("tilt-arm"), *commands)
    except Refusal as refusal:
        if key != "identity":
            raise
        assert refusal.sentence
        return
    holds, said = lines(document)[key]
    assert not holds and says in said, said


def test_a_suppressed_step_with_its_reason_holds() -> None:
    suppressed = {"suppressed": True, "note": "broken by hand"}
    document = changed(whole("tilt-arm"), {"do": "set_step", "step": "s8", "changes": suppressed})
    assert lines(document)["suppressed"][0]


def test_it_is_not_released_over_an_open_line_without_a_reason() -> None:
    document = whole("cross-plate")
    with pytest.raises(Refusal, match=r"every size has a callout.*say why"):
        pack(document, made(document), Release("A", "wren", AT, "", {"covered": "  "}))


def test_a_pack_is_the_same_bytes_again() -> None:
    part = plate(number="FKS-0900", material="PA 6")
    part.sketch("s3", "top", disc((90, 15), 12))
    part.extrude("s4", "s3", "10", "new")  # two bodies
    part.do("add_step", step={"kind": "body", "id": "s5", "body": "s4", "name": "Disc", "colour": "#446688"})
    reasons = dict.fromkeys(("constrained", "proven", "covered", "mass"), "a test piece")
    release = Release("B", "wren", AT, "Fenmarsh Kite Survey", reasons)
    document = part.document
    first = pack(document, build(document, Cache()), release)
    fresh = build(document, Cache())
    again = pack(document, fresh, release)
    assert again == first
    for body in fresh.state.bodies:  # looked at meanwhile, in triangles
        body_picture(document, body)
    assert pack(document, fresh, release) == first
    other = pack(document, fresh, Release("B", "wren", "2031-05-12T08:30:01Z", "Fenmarsh Kite Survey", reasons))
    assert other != again


def test_a_reader_of_its_own_agrees() -> None:
    """The shop's reader shares no code with the writer; volumes are taken from the triangles by trimesh."""
    for name in ("cross-plate", "tilt-arm"):
        data = packed(name)
        assert reasons_against(data) == []
        files = contents(data)
        told = json.loads(files["manifest.json"])
        scene = trimesh.load(io.BytesIO(files["solid.3mf"]), file_type="3mf")
        volume = sum(g.volume for g in scene.geometry.values())
        assert volume == pytest.approx(told["figures"]["volume"], rel=3e-3)
        assert len(scene.geometry) == len(told["figures"]["bodies"])
        assert {c["key"]: c["reason"] for c in told["conditions"] if not c["holds"]}.items() <= REASONS.items()
    profile = ezdxf.read(io.StringIO(contents(packed())["profile-s2.dxf"].decode()))  # type: ignore[attr-defined]
    assert len(profile.modelspace().query("CIRCLE")) == 5 and len(profile.modelspace().query("LINE")) == 12


def test_a_pack_is_verified() -> None:
    told, wrong = verify(packed())
    assert wrong == []
    assert (told["part"]["number"], told["part"]["revision"], told["released"]["at"]) == ("FKS-0101", "A", AT)


def resealed(files: dict[str, bytes], change: Callable[[dict[str, Any]], None] = lambda _: None) -> dict[str, bytes]:
    """A pack whose manifest vouches for what was changed."""
    told = json.loads(files["manifest.json"])
    for entry in told["files"]:
        if entry["path"] in files:
            entry |= {"sha256": hashlib.sha256(files[entry["path"]]).hexdigest(), "bytes": len(files[entry["path"]])}
    change(told)
    return {**files, "manifest.json": json.dumps(told).encode()}


def _volume(told: dict[str, Any]) -> None:
    told["figures"]["volume"] *= 1.01


def _reason(told: dict[str, Any]) -> None:
    for c in told["conditions"]:
        c["reason"] = ""


def _check(told: dict[str, Any]) -> None:
    told["checks"][0]["passed"] = not told["checks"][0]["passed"]


TAMPERED: list[tuple[Callable[[dict[str, bytes]], dict[str, bytes]], str]] = [
    (lambda f: {**f, "drawing.pdf": f["drawing.pdf"] + b" "}, "drawing.pdf is not as it was released"),
    (lambda f: {k: v for k, v in f.items() if k != "solid.step"}, "solid.step is in the manifest, but not in the pack"),
    (lambda f: {**f, "note.txt": b"hello"}, "note.txt is in the pack, but not in the manifest"),
    (lambda f: resealed(f, _volume), "the manifest says"),
    (lambda f: resealed(f, _reason), "no reason is given"),
    (lambda f: resealed(f, _check), "came out otherwise"),
    (lambda f: resealed({**f, "solid.step": contents(packed("tilt-arm"))["solid.step"]}), "solid.step holds"),
    (lambda f: resealed({**f, "part.sulvak.json": contents(packed("tilt-arm"))["part.sulvak.json"]}), "Tilt arm"),
    (lambda f: resealed({**f, "part.sulvak.json": b"{}"}), "part.sulvak.json cannot be read"),
    (lambda f: resealed({**f, "solid.step": b"nothing"}), "solid.step cannot be read"),
    (lambda f: {**f, "manifest.json": b'{"format": "sulvak-release-pack", "format_version": 1}'}, "does not say"),
]  # fmt: skip


@cache
def volume_of(step: bytes) -> float:
    return step_volume(step)


@pytest.mark.parametrize(("tamper", "says"), TAMPERED)
def test_what_was_tampered_with_is_found(
    tamper: Callable[[dict[str, bytes]], dict[str, bytes]], says: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(verifying, "step_volume", volume_of)  # in a process of its own, but each file once
    _, wrong = verify(zipped(tamper(contents(packed()))))
    assert any(says in w for w in wrong), wrong


HOSTILE: list[tuple[Callable[[], bytes], str]] = [
    (lambda: b"", "no release pack"),
    (lambda: b"PK\x03\x04 and no more", "no release pack"),
    (lambda: packed()[: len(packed()) // 2], "no release pack"),
    (lambda: zipped({"a.txt": b"x"}), "no manifest.json"),
    (lambda: zipped({"manifest.json": b"{"}), "damaged"),
    (lambda: zipped({"manifest.json": b'{"format": "other"}'}), "another format"),
    (lambda: zipped({"manifest.json": b'{"format": "sulvak-release-pack", "format_version": 2}'}), "newer Sulvak"),
    (lambda: zipped({"../up.txt": b"x", "manifest.json": b"{}"}), "outside"),
    (lambda: zipped({"/etc.txt": b"x", "manifest.json": b"{}"}), "outside"),
    (lambda: zipped({"zeros": b"\0" * 30_000_000, "manifest.json": b"{}"}), "swell"),
    (lambda: zipped({f"{i}": b"" for i in range(300)}), "more than a release pack"),
]


@pytest.mark.parametrize(("data", "says"), HOSTILE)
def test_what_is_no_pack_is_refused_in_words(data: Callable[[], bytes], says: str) -> None:
    with pytest.raises(Refusal, match=says):
        verify(data())
    assert reasons_against(data())


def test_a_step_that_takes_for_ever_is_left(monkeypatch: pytest.MonkeyPatch) -> None:
    from sulvak_core.release import step_volume

    monkeypatch.setattr(step_volume, "SECONDS", 0.01)
    files = contents(packed())
    assert verifying._solid_agrees(json.loads(files["manifest.json"]), files["solid.step"]) == [
        "solid.step cannot be read: reading it takes beyond all time."
    ]


def test_step_records_in_order_are_the_same_whatever_their_numbers() -> None:
    head, tail = "ISO-10303-21;\nDATA;\n", "ENDSEC;\nEND-ISO-10303-21;\n"
    styles = "MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION('',(#{a},#{b}),#{c})"
    one = (
        f"{head}#1 = {styles.format(a=2, b=3, c=4)};\n#2 = S('a #9',#4);\n#3 = S('it''s',\n  #4);\n#4 = C(1.);\n{tail}"
    )
    two = f"{head}#7 = C(1.);\n#5 = S('it''s',  #7);\n#6 = S('a #9',#7);\n#1 = {styles.format(a=5, b=6, c=7)};\n{tail}"
    assert in_order(one) == in_order(two.replace("  #7", "#7"))
    assert "'a #9'" in in_order(one) and in_order(in_order(one)) == in_order(one)


def test_the_reports_of_a_pack_say_what_it_weighs_and_what_the_checks_found() -> None:
    import pypdfium2

    files = contents(packed())
    pages = pypdfium2.PdfDocument(files["inspection.pdf"])
    text = "".join(pages[i].get_textpage().get_text_range() for i in range(len(pages)))
    assert "45.23" in text and "within" in text and "Checks of the shop" in text and "cutters" in text
    summary = pypdfium2.PdfDocument(files["summary.pdf"])
    assert len(summary) == 1
    words = summary[0].get_textpage().get_text_range()
    assert "FKS-0101 Cross plate revision A" in words and "the arms are alike" in words
