"""Drawings as other programs write them: line ends, code pages, files cut short, what would swell."""

import io
from pathlib import Path
from typing import Any

import pytest

from sulvak_core.exchange.dxf_in import read_dxf
from sulvak_core.exchange.svg_in import read_svg
from sulvak_core.exchange.xml import parse_svg
from sulvak_core.part.errors import Refusal

from .test_drawings import area, drawn, taken, written


def svg(body: str, size: str = 'width="100mm" height="60mm" viewBox="0 0 100 60"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'.encode()


@pytest.mark.parametrize("end", [b"\n", b"\r\n", b"\r"])
def test_any_line_ends(end: bytes) -> None:
    file, space = drawn()
    space.add_circle((3, 4), 5)
    data = written(file).replace(b"\n", end)
    assert [s.kind for s in read_dxf(data).shapes] == ["circle"]


@pytest.mark.parametrize("size", [40, 300, 700, 1500, 9000])
def test_a_file_cut_short_is_refused(size: int) -> None:
    file, space = drawn()
    space.add_line((0, 0), (9, 3))
    with pytest.raises(Refusal):
        read_dxf(written(file)[:size])


def test_a_binary_dxf_is_read(tmp_path: Path) -> None:
    file, space = drawn()
    space.add_line((0, 0), (9, 3))
    file.saveas(tmp_path / "b.dxf", fmt="bin")
    data = (tmp_path / "b.dxf").read_bytes()
    assert [s.kind for s in read_dxf(data).shapes] == ["line"]
    with pytest.raises(Refusal, match="damaged"):
        read_dxf(data[: len(data) // 3])


def test_text_in_the_code_page_that_the_file_names() -> None:
    file, space = drawn("R2000")
    file.encoding = "cp1251"
    space.add_line((0, 0), (1, 1), dxfattribs={"layer": "Отверстия"})
    out = io.StringIO()
    file.write(out)
    drawing = read_dxf(out.getvalue().encode("cp1251"))
    assert [layer.name for layer in drawing.layers] == ["Отверстия"]
    # bytes that no code page has do not come out as halves of characters
    for layer in read_dxf(out.getvalue().encode("cp1251").replace(b"ANSI_1251", b"ANSI_1252")).layers:
        layer.name.encode()


@pytest.mark.parametrize("bad", [1e300, 1e14])
def test_one_bad_insert_does_not_lose_the_drawing(bad: float) -> None:
    file, space = drawn()
    block = file.blocks.new("B")
    block.add_circle((0, 0), 2)
    for scale in (1.0, bad):
        space.add_blockref("B", (10, 10), dxfattribs={"xscale": scale, "yscale": scale, "zscale": scale})
    space.add_line((0, 0), (5, 5))
    drawing = read_dxf(written(file))
    assert sorted(s.kind for s in drawing.shapes) == ["circle", "line"]
    assert drawing.left_out == {"damaged block": 1}


def test_a_division_by_zero_in_one_entity_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    """What a reader trips over in a block is that block's trouble alone."""
    file, space = drawn()
    file.blocks.new("B").add_circle((0, 0), 2)
    space.add_blockref("B", (10, 10))
    space.add_line((0, 0), (5, 5))

    def trip(*a: Any, **more: Any) -> Any:
        raise ZeroDivisionError

    monkeypatch.setattr("ezdxf.entities.Insert.virtual_entities", trip)
    drawing = read_dxf(written(file))
    assert ([s.kind for s in drawing.shapes], drawing.left_out) == (["line"], {"damaged block": 1})


@pytest.mark.parametrize("off", [(5e8, -3e8), (2.5e6, 0)])
def test_a_drawing_far_from_its_origin_is_brought_near(off: tuple[float, float]) -> None:
    file, space = drawn()
    x, y = off
    for a, b in [((0, 0), (40, 0)), ((40, 0), (40, 30)), ((40, 30), (0, 30)), ((0, 30), (0, 0))]:
        space.add_line((x + a[0], y + a[1]), (x + b[0], y + b[1]))
    drawing = read_dxf(written(file))
    assert drawing.far is not None
    assert drawing.far == pytest.approx(off, abs=1)
    assert area(taken(drawing)) == pytest.approx(1200, rel=1e-6)


def test_what_is_too_large_in_a_unit_is_refused_in_words() -> None:
    file, space = drawn()
    space.add_line((0, 0), (20_000, 0))
    with pytest.raises(Refusal, match="larger than ten kilometres; choose another unit"):
        taken(read_dxf(written(file)), unit="m")
    file, space = drawn()
    space.add_line((0, 0), (3e7, 0))
    with pytest.raises(Refusal, match="larger than ten kilometres; take the view"):
        read_dxf(written(file))


BOMB = (
    "<defs>"
    + "".join(f'<g id="g{n}">' + f'<use href="#g{n - 1}"/>' * 10 + "</g>" for n in range(1, 12))
    + '<g id="g0"><line x1="0" y1="0" x2="9" y2="9"/></g></defs><use href="#g11"/>'
)


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (BOMB, "uses parts of itself so often"),
        ('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>', "uses itself within itself"),
        ("<g>" * 3000 + "</g>" * 3000, "too deep"),
        ('<path d="M0 0' + "l1 1" * 500_000 + '"/>', "too many elements"),
        ('<line x1="0" y1="0" x2="9" y2="9"/>' * 400_000, "too many elements"),
    ],
    ids=["over and over", "in a circle", "deep", "a long path", "many lines"],
)
def test_what_would_swell_is_counted_first(body: str, said: str) -> None:
    data = svg(body)
    with pytest.raises(Refusal, match=said):
        read_svg(data)
    with pytest.raises(Refusal, match=said):
        parse_svg(data)  # the door of sheets


def test_paths_that_break_off_are_told() -> None:
    good, bad = '<path d="M0 0L9 0L9 9Z"/>', '<path d="M0 0L9 0L9"/><path d="M0 0Q1 x"/><path d="L3 3"/>'
    arcs = '<path d="M10 10a4 4 0 0110 0"/><path d="m1,1 h5 v5 H1z"/>'
    assert "path that breaks off" not in read_svg(svg(good + arcs)).left_out
    assert read_svg(svg(good + bad)).left_out["path that breaks off"] == 3


@pytest.mark.parametrize(
    ("doctype", "well"),
    [
        ('<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">', True),
        ("<!DOCTYPE svg>", True),
        ('<!DOCTYPE svg SYSTEM "file:///etc/passwd">', True),  # named, never read
        ('<!DOCTYPE svg [<!ENTITY a "b">]>', False),
        ('<!DOCTYPE svg PUBLIC "x" "y" [<!ENTITY a SYSTEM "file:///etc/passwd">]>', False),
    ],
)
def test_a_doctype_that_defines_nothing_passes(doctype: str, well: bool) -> None:
    data = b"<?xml version='1.0'?>" + doctype.encode() + svg('<line x1="0" y1="0" x2="9" y2="9"/>')
    if well:
        assert len(read_svg(data).shapes) == 1
    else:
        with pytest.raises(Refusal, match="definitions of its own"):
            read_svg(data)
