"""Every kind of step and option against its closed-form volume."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.shapes import checked

from .parts import Made, disc, plate
from .sketches import P, line, rectangle

TOP = {"kind": "datum", "plane": "top"}
W, H, T = 40, 30, 10  # the plate
PLATE = W * H * T
ROUND = 1 - math.pi / 4  # what a round takes off a square corner of side 1


def face(origin: str) -> dict[str, Any]:
    return {"origins": [origin]}


def pick(origin: str) -> dict[str, Any]:
    return {"by": "pick", "face": face(origin)}


def on_top(sketch: Sketch, part: Made | None = None) -> Made:
    """The plate with a sketch s3 on its top face."""
    made = part or plate()
    made.sketch("s3", made.face("s2/end"), sketch)
    return made


def extruded(sketch: Sketch, extent: dict[str, Any], operation: str = "add", **more: Any) -> Made:
    made = on_top(sketch)
    made.step("extrude", "s4", sketch="s3", operation=operation, extent=extent, **more)
    return made


def stepped() -> Made:
    """The plate with a lower ledge: 20 of its length is only 4 high."""
    made = plate()
    made.sketch("s3", "front", rectangle(x=20, y=4, w=20, h=6, held=False))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"}, reverse=True)
    return made


def to_ledge() -> Made:
    """A pin on the underside of a bridge that stops on the ledge below it."""
    made = stepped()
    made.sketch("s5", {"kind": "datum", "plane": "top"}, disc((30, 15), 3))
    made.step("datum", "s6", form="offset", plane=TOP, distance="25")
    made.sketch("s7", {"kind": "plane", "step": "s6"}, disc((30, 15), 3))
    made.step("extrude", "s8", sketch="s7", extent={"kind": "to_next"}, reverse=True)
    return made


def to_slope(offset: str = "0") -> Made:
    """A pin on the plate up to a sloped face of a wedge beside it, carried on."""
    made = plate()
    wedge = [line(1, (-20, 0), (0, 0)), line(2, (0, 0), (0, 20)), line(3, (0, 20), (-20, 0))]
    made.sketch("s3", "front", Sketch(entities=wedge))
    made.step("extrude", "s4", sketch="s3", operation="new", extent={"kind": "depth", "depth": "5"}, reverse=True)
    made.sketch("s5", made.face("s2/end"), disc((20, 15), 2))
    made.step(
        "extrude",
        "s6",
        sketch="s5",
        extent={"kind": "to_face", "face": face("s4/side/l3"), "offset": offset},
        bodies=["s2"],
    )
    return made


def channel(side: str) -> Made:
    made = Made()
    made.sketch("s1", "front", Sketch(entities=[line(1, (0, 20), (0, 0)), line(2, (0, 0), (30, 0))]))
    made.step(
        "extrude", "s2", sketch="s1", extent={"kind": "depth", "depth": "10"}, wall="2", wall_side=side, operation="new"
    )
    return made


def turned(angle: str = "360", **more: Any) -> Made:
    made = Made()
    made.sketch("s1", "front", rectangle(x=10, y=0, w=5, h=8, held=False))
    axis = {"kind": "line", "step": "s1", "line": "y"}
    made.step("revolve", "s2", sketch="s1", axis=axis, angle=angle, operation="new", **more)
    return made


def drilled(**hole: Any) -> Made:
    made = on_top(Sketch(entities=[P(id="p1", at=(10, 10)), P(id="p2", at=(30, 20))]))
    made.step("hole", "s4", sketch="s3", **hole)
    return made


def holed() -> Made:
    made = on_top(disc((6, 6), 2))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    return made


def repeated(**fields: Any) -> Made:
    made = holed()
    made.step("pattern", "s5", of=["s4"], **fields)
    return made


def rounded(edges: list[Any], radius: str = "3") -> Made:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": edges, "radius": radius}])
    return made


def chamfered(**fields: Any) -> Made:
    made = plate()
    made.step("chamfer", "s3", edges=[{"by": "along", "axis": "z"}], **fields)
    return made


def drafted(**fields: Any) -> Made:
    made = plate()
    groups = fields.pop("groups", [{"faces": [{"by": "sides", "step": "s2"}], "angle": "5"}])
    neutral = fields.pop("neutral", {"kind": "face", "face": face("s2/start")})
    made.step("draft", "s3", groups=groups, neutral=neutral, **fields)
    return made


def shelled(faces: list[Any], **fields: Any) -> Made:
    made = plate()
    made.step("shell", "s3", faces=faces, **fields)
    return made


def two_blocks(second: tuple[float, float, float, float], depth: str = "10") -> Made:
    made = plate()
    x, y, w, h = second
    made.sketch("s3", "top", rectangle(x=x, y=y, w=w, h=h, held=False))
    made.step("extrude", "s4", sketch="s3", operation="new", extent={"kind": "depth", "depth": depth})
    return made


def combined(operation: str, **more: Any) -> Made:
    made = two_blocks((30, 10, 20, 10), "20")
    made.step("combine", "s5", operation=operation, body="s2", tools=["s4"], **more)
    return made


def moved(**fields: Any) -> Made:
    made = two_blocks((60, 0, 10, 10))
    made.step("move", "s5", bodies=["s4"], **fields)
    return made


def frustum(angle: float, height: float = T) -> float:
    """The plate's volume when its four walls lean in by ``angle`` degrees from its foot (prismoidal formula)."""
    k = height * math.tan(math.radians(angle))
    return height / 6 * (W * H + 4 * (W - k) * (H - k) + (W - 2 * k) * (H - 2 * k))


def cone(r: float, angle: float, height: float) -> float:
    top = r - height * math.tan(math.radians(angle))
    return math.pi * height / 3 * (r * r + r * top + top * top)


PIN = disc((20, 15), 3)
AREA = math.pi * 9
TIP = math.pi * 2.5**3 / 3 / math.tan(math.radians(59))
CORNERS = [{"by": "along", "axis": "z"}]
TANGENT = math.tan(math.radians(5))

CASES: dict[str, tuple[Callable[[], Made], float]] = {
    # datums
    "cut off through three corners": (lambda: _through_corners(), 12000 - 40 * 30 * 10 / 6),
    "on a plane that touches": (lambda: _touching(False), math.pi * 36 * 30 + 160),
    "on the far plane that touches": (lambda: _touching(True), math.pi * 36 * 30 + 160),
    # extrude
    "symmetric": (lambda: extruded(PIN, {"kind": "symmetric", "depth": "8"}), PLATE + AREA * 4),
    "two depths": (lambda: extruded(PIN, {"kind": "two_depths", "depth": "7", "back": "3"}), PLATE + AREA * 7),
    "two depths, cut": (
        lambda: extruded(PIN, {"kind": "two_depths", "depth": "6", "back": "3"}, "cut"),
        PLATE - AREA * 6,
    ),
    "intersect": (lambda: extruded(PIN, {"kind": "through_all"}, "intersect", reverse=True), AREA * T),
    "to next": (to_ledge, PLATE - 20 * 6 * H + AREA * 21),
    "to a tilted face": (to_slope, PLATE + 20 * 5 * 20 / 2 + math.pi * 4 * 30),
    "short of a tilted face": (lambda: to_slope("2"), PLATE + 20 * 5 * 20 / 2 + math.pi * 4 * 28),
    "taper": (lambda: extruded(PIN, {"kind": "depth", "depth": "8"}, taper="5"), PLATE + cone(3, 5, 8)),
    "taper, widening": (lambda: extruded(PIN, {"kind": "depth", "depth": "8"}, taper="-5"), PLATE + cone(3, -5, 8)),
    "taper, cut": (
        lambda: extruded(PIN, {"kind": "depth", "depth": "8"}, "cut", taper="5"),
        PLATE - cone(3, 5, 8),
    ),
    "wall about an open chain": (lambda: channel("middle"), (20 + 30) * 2 * 10),
    "wall left of it": (lambda: channel("left"), (20 + 28) * 2 * 10),
    "wall right of it": (lambda: channel("right"), (22 + 30) * 2 * 10),
    # revolve
    "revolve": (turned, math.pi * (225 - 100) * 8),
    "revolve by a quarter": (lambda: turned("90"), math.pi * (225 - 100) * 2),
    "revolve, half to either side": (lambda: turned("50", symmetric=True), math.pi * (225 - 100) * 8 * 50 / 360),
    # hole
    "holes through": (lambda: drilled(diameter="5"), PLATE - 2 * math.pi * 6.25 * T),
    "blind with a drill point": (
        lambda: drilled(diameter="5", end="blind", depth="6"),
        PLATE - 2 * (math.pi * 6.25 * 6 + TIP),
    ),
    "blind, flat": (
        lambda: drilled(diameter="5", end="blind", depth="6", tip="flat"),
        PLATE - 2 * math.pi * 6.25 * 6,
    ),
    "counterbore": (
        lambda: drilled(form="counterbore", size="M5", bore_diameter="10", bore_depth="4"),
        PLATE - 2 * math.pi * (25 * 4 + 2.75**2 * 6),
    ),
    "countersink": (
        lambda: drilled(form="countersink", size="M4", fit="coarse", sink_diameter="9", sink_angle="90"),
        PLATE - 2 * math.pi * ((4.5**3 - 2.4**3) / 3 + 2.4**2 * (T - 2.1)),
    ),
    "tapped": (lambda: drilled(form="tapped", size="M6"), PLATE - 2 * math.pi * 2.5**2 * T),
    # pattern
    "row": (
        lambda: repeated(along={"kind": "axis", "axis": "x"}, count="4", spacing="8"),
        PLATE - 4 * math.pi * 4 * T,
    ),
    "row over a length": (
        lambda: repeated(along={"kind": "axis", "axis": "x"}, count="4", spacing="24", measure="total"),
        PLATE - 4 * math.pi * 4 * T,
    ),
    "rows both ways, one left out": (
        lambda: repeated(
            along={"kind": "axis", "axis": "x"},
            count="4",
            spacing="8",
            second={"kind": "axis", "axis": "y"},
            second_count="3",
            second_spacing="8",
            left_out=[(1, 1)],
        ),
        PLATE - 11 * math.pi * 4 * T,
    ),
    "mirror": (
        lambda: _mirrored(),
        PLATE - 2 * math.pi * 4 * T,
    ),
    "round an edge": (lambda: _ring(), PLATE - 6 * math.pi * 4 * T),
    "a body, joined": (lambda: _row_of_bodies(True), 3 * 10 * 10 * 10 - 2 * 2 * 10 * 10),
    "a body, apart": (lambda: _row_of_bodies(False), 3 * 10 * 10 * 10),
    # rounds and chamfers
    "rounds by rule": (lambda: rounded(CORNERS), PLATE - 4 * 9 * ROUND * T),
    "rounds around a face": (
        lambda: rounded([{"by": "around", "face": face("s2/end")}], "2"),
        # in each corner cube of side r both quarter cylinders keep ∫ (r² − u²) du = 2/3 r³
        PLATE - ROUND * 4 * 2 * (36 + 26) - 4 * 2**3 / 3,
    ),
    "two radii": (lambda: _two_radii(), PLATE - 2 * 9 * ROUND * T - 2 * 4 * ROUND * T),
    "chamfer": (lambda: chamfered(first="2"), PLATE - 4 * 2 * T),
    "chamfer, two distances": (lambda: chamfered(first="2", second="3", form="two"), PLATE - 4 * 3 * T),
    "chamfer by an angle": (
        lambda: chamfered(first="2", form="angle", angle="30"),
        PLATE - 4 * 2 * math.tan(math.radians(30)) * T,
    ),
    # draft
    "draft": (drafted, frustum(5)),
    "draft, widening": (lambda: drafted(outward=True), frustum(-5)),
    "draft from the top": (
        lambda: drafted(neutral={"kind": "face", "face": face("s2/end")}, reverse=True),
        frustum(-5),
    ),
    "draft parted at a plane": (lambda: _parted(), frustum(5, 5) + frustum(3, 5)),
    "draft, two angles": (
        lambda: drafted(
            groups=[
                {"faces": [pick("s2/side/l1"), pick("s2/side/l3")], "angle": "5"},
                {"faces": [pick("s2/side/l2")], "angle": "45"},
            ]
        ),
        T / 6 * (W * H + 4 * (H - TANGENT * T) * (W - T / 2) + (H - 2 * TANGENT * T) * (W - T)),
    ),
    # shell
    "shell open above": (lambda: shelled([pick("s2/end")]), PLATE - 36 * 26 * 8),
    "shell open above and before": (lambda: shelled([pick("s2/end"), pick("s2/side/l1")]), PLATE - 36 * 28 * 8),
    "shell closed all round": (lambda: shelled([]), PLATE - 36 * 26 * 6),
    "shell outwards": (lambda: shelled([pick("s2/end")], side="outside"), 44 * 34 * 12 - PLATE),
    "shell half to either side": (
        lambda: shelled([pick("s2/end")], side="both"),
        42 * 32 * 11 - 38 * 28 * 9,
    ),
    "shell with a thicker wall": (
        lambda: shelled([pick("s2/end")], own=[{"faces": [pick("s2/start")], "thickness": "5"}]),
        PLATE - 36 * 26 * 5,
    ),
    # bodies
    "union": (lambda: combined("union"), PLATE + 20 * 10 * 20 - 10 * 10 * 10),
    "subtract": (lambda: combined("subtract"), PLATE - 10 * 10 * 10),
    "subtract, tools stay": (lambda: combined("subtract", keep=True), PLATE - 10 * 10 * 10 + 20 * 10 * 20),
    "intersect bodies": (lambda: combined("intersect"), 10 * 10 * 10),
    "split, both": (lambda: _split("both"), PLATE),
    "split, front": (lambda: _split("front"), PLATE * 0.6),
    "split, back": (lambda: _split("back"), PLATE * 0.4),
    "move": (lambda: moved(x="5"), PLATE + 1000),
    "copy and turn": (
        lambda: moved(axis={"kind": "axis", "axis": "z"}, angle="90", copied=True),
        PLATE + 2000,
    ),
    "take out": (lambda: _without(), PLATE),
}


def _mirrored() -> Made:
    made = holed()
    made.step("datum", "s5", form="offset", plane={"kind": "datum", "plane": "right"}, distance="20")
    made.step("pattern", "s6", form="mirror", of=["s4"], plane={"kind": "plane", "step": "s5"})
    return made


def _ring() -> Made:
    made = on_top(disc((20, 6), 2))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    made.step("datum", "s8", form="offset", plane={"kind": "datum", "plane": "front"}, distance="-15")
    made.sketch("s9", {"kind": "plane", "step": "s8"}, Sketch(entities=[line(1, (20, 0), (20, 5), construction=True)]))
    axis = {"kind": "line", "step": "s9", "line": "l1"}
    made.step("pattern", "s10", form="circular", of=["s4"], along=axis, count="6", measure="total")
    return made


def _row_of_bodies(join: bool) -> Made:
    made = Made()
    made.sketch("s1", "top", rectangle(w=10, h=10, held=False))
    made.extrude("s2", "s1", "10")
    made.step("pattern", "s3", bodies=["s2"], along={"kind": "axis", "axis": "x"}, count="3", spacing="8", join=join)
    return made


def _two_radii() -> Made:
    made = plate()
    groups = [
        {"edges": [made.edge("s2/side/l1", "s2/side/l2"), made.edge("s2/side/l2", "s2/side/l3")], "radius": "3"},
        {"edges": [made.edge("s2/side/l3", "s2/side/l4"), made.edge("s2/side/l4", "s2/side/l1")], "radius": "2"},
    ]
    made.step("fillet", "s3", groups=groups)
    return made


def _parted() -> Made:
    made = plate()
    made.step("datum", "s3", form="middle", plane=TOP, other={"kind": "face", "face": face("s2/end")})
    groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": "5"}]
    made.step("draft", "s4", groups=groups, neutral={"kind": "plane", "step": "s3"}, split=True, other="3")
    return made


def corner(one: str, two: str, at: tuple[float, float, float]) -> dict[str, Any]:
    return {"edge": {"between": [{"origins": [one]}, {"origins": [two]}]}, "at": at}


def _through_corners() -> Made:
    """A block 40 × 30 × 10 split by the plane through three of its corners: a pyramid of a sixth of the box is cut
    off."""
    made = plate()
    made.step("datum", "s3", form="points", corners=[
        corner("s2/side/l1", "s2/start", (40, 0, 0)),
        corner("s2/side/l4", "s2/start", (0, 30, 0)),
        corner("s2/side/l4", "s2/side/l1", (0, 0, 10)),
    ])  # fmt: skip
    made.step("split", "s4", plane={"kind": "plane", "step": "s3"})
    made.step("remove", "s5", bodies=["s2x2"])
    return made


def _touching(far: bool) -> Made:
    """A post of radius 6 standing at x = 20; a block grown from the plane touching it, alongside the right plane."""
    made = Made()
    made.sketch("s1", "top", disc((20, 0), 6))
    made.extrude("s2", "s1", "30")
    made.step("datum", "s3", form="tangent", plane={"kind": "datum", "plane": "right"}, reverse=far,
              face={"origins": ["s2/side/c1"]})  # fmt: skip
    made.sketch("s4", {"kind": "plane", "step": "s3"}, rectangle(x=-2, y=10, w=4, h=4, held=False))
    made.extrude("s5", "s4", "10", "new")
    return made


def _split(keep: str) -> Made:
    made = plate()
    made.step("datum", "s3", form="offset", plane={"kind": "datum", "plane": "right"}, distance="16")
    made.step("split", "s4", plane={"kind": "plane", "step": "s3"}, keep=keep)
    return made


def _without() -> Made:
    made = two_blocks((60, 0, 10, 10))
    made.step("remove", "s5", bodies=["s4"])
    return made


@pytest.mark.parametrize("name", CASES)
def test_closed_forms(name: str) -> None:
    make, expected = CASES[name]
    made = make()
    result = made.build()
    assert not result.failed, [r.said for r in result.failed]
    assert result.state.volume() == pytest.approx(expected, rel=1e-9)
    for body in result.state.bodies:
        checked(body.solid, "test")
        assert all(tags for _, tags in body.solid.tags.items())
    for report in result.reports:
        assert report.sentence and "None" not in report.sentence and "{" not in report.sentence


def test_centre_and_inertia_where_edges_are_ellipses() -> None:
    """A cylinder cut at a slope: its cut face is bounded by an ellipse, which quick integration misses."""
    from sulvak_core.solid.bulk import bulk

    made = Made()
    made.sketch("s1", "top", disc((7, -3), 5))
    made.extrude("s2", "s1", "30")
    made.step("datum", "s3", form="angled", plane=TOP, axis={"kind": "axis", "axis": "y"}, angle="-30")
    made.step("datum", "s4", form="offset", plane={"kind": "plane", "step": "s3"}, distance="16")
    made.step("split", "s5", plane={"kind": "plane", "step": "s4"}, keep="back")
    found = bulk(made.build().state.bodies[0].solid)
    slope = math.tan(math.radians(30))
    mid = 16 / math.cos(math.radians(30)) + 7 * slope  # height over the axis, where the plane stands at x = 7
    area, square = math.pi * 25, math.pi * 5**4 / 4
    volume = area * mid
    assert found.volume == pytest.approx(volume, rel=1e-9)
    # ∫ x h dA and ∫ h² dA over the disc, with h = mid + slope · (x − 7)
    cx = 7 + slope * square / volume
    cz = (area * mid**2 + slope**2 * square) / 2 / volume
    assert found.centre == pytest.approx((cx, -3, cz), rel=1e-9)
    about_y = mid * square  # ∫ (y + 3)² h dA: the slope's share is odd and vanishes
    xx = mid * square - volume * (cx - 7) ** 2
    zz = (area * mid**3 + 3 * mid * slope**2 * square) / 3 - volume * cz**2
    assert found.inertia[2][2] == pytest.approx(xx + about_y, rel=1e-9)
    assert found.inertia[0][0] == pytest.approx(about_y + zz, rel=1e-9)


@pytest.mark.parametrize(("far", "x"), [(False, 26.0), (True, 14.0)])
def test_a_touching_plane_stands_a_radius_off_the_axis_and_follows_it(far: bool, x: float) -> None:
    made = _touching(far)
    frame = made.report("s3").frame
    assert frame["normal"] == pytest.approx((1, 0, 0))
    assert frame["origin"] == pytest.approx((x, 0, 0))
    made.do("sketch_add", step="s1", dimensions=[{"id": "d1", "kind": "radius", "refs": ["c1"], "expr": "9"}])
    assert made.report("s3").frame["origin"][0] == pytest.approx(20 + math.copysign(9, x - 20))


def test_a_plane_through_corners_follows_them_and_through_a_rims_middle() -> None:
    made = _through_corners()
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "60"})
    assert made.volume() == pytest.approx(24000 - 40 * 60 * 10 / 6)
    post = _touching(False)
    rim = [{"edge": {"between": [{"origins": ["s2/side/c1"]}, {"origins": [f"s2/{end}"]}]}, "at": (26, 0, z)}
           for end, z in (("start", 0), ("end", 30))]  # fmt: skip
    post.step("datum", "s6", form="points", corners=[*rim, corner("s5/end", "s5/side/l1", (36, -2, 10))])
    n = post.report("s6").frame["normal"]
    assert post.report("s6").state == "ok"
    assert n[2] == pytest.approx(0, abs=1e-12)  # it holds the post's axis


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"form": "points", "corners": []}, "three points"),
        ({"form": "points", "corners": [corner("s2/side/l1", "s2/start", (40, 0, 0))] * 3}, "one line"),
        ({"form": "tangent", "plane": {"kind": "datum", "plane": "right"}}, "round face"),
        (
            {"form": "tangent", "plane": {"kind": "datum", "plane": "right"}, "face": {"origins": ["s2/end"]}},
            "cylinder",
        ),
        (
            {"form": "tangent", "plane": {"kind": "datum", "plane": "top"}, "face": {"origins": ["s4/side/c1"]}},
            "alongside",
        ),
    ],
)
def test_planes_that_cannot_be(fields: dict[str, Any], said: str) -> None:
    made = plate()
    made.sketch("s3", "top", disc((20, 15), 4))
    made.extrude("s4", "s3", None, "cut")
    made.step("datum", "s5", **fields)
    report = made.report("s5")
    assert report.state == "failed"
    assert said in report.said
