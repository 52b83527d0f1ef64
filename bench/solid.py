"""The route's rows."""

from __future__ import annotations

from collections.abc import Callable

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakePrism
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.solid.measure import neighbours
from sulvak_core.solid.mesh import mesh, packed, stl
from sulvak_core.steps.kinds.extrude import ExtrudeStep
from sulvak_core.steps.registry import Document, load

from .timing import ratio

HOLES = 20


def plate(holes: int = HOLES) -> Document:
    """Twice as many steps as ``holes``, 40 of them: a plate and 19 blind holes, each a sketch and a cut."""
    wide = 10 * holes + 10
    corners = [(0, 0), (wide, 0), (wide, 30), (0, 30)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": corners[i], "q": corners[(i + 1) % 4]} for i in range(4)]
    steps: list[dict[str, object]] = [
        {"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}, "sketch": {"entities": lines}},
        {"kind": "extrude", "id": "s2", "sketch": "s1", "extent": {"kind": "depth", "depth": "12"}},
    ]
    for i in range(1, holes):
        circle = {"kind": "circle", "id": "c1", "c": (10 * i, 15), "r": 3}
        on = {"kind": "face", "face": {"origins": ["s2/end"]}}
        steps.append({"kind": "sketch", "id": f"s{2 * i + 1}", "on": on, "sketch": {"entities": [circle]}})
        extent = {"kind": "depth", "depth": "7"}
        cut: dict[str, object] = {
            "kind": "extrude",
            "id": f"s{2 * i + 2}",
            "sketch": f"s{2 * i + 1}",
            "operation": "cut",
            "extent": extent,
        }
        steps.append(cut)
    return load({"name": "bench", "steps": steps})


def _hole(x: float, y: float, z: float, depth: float) -> TopoDS_Shape:
    circle = gp_Circ(gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)), 3.0)
    wire = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire).Face(), gp_Vec(0, 0, depth)).Shape()


def bare() -> None:
    """The same shapes by the kernel alone: a box, and each hole's face, prism, cut and merging of faces."""
    shape = BRepPrimAPI_MakeBox(210.0, 30.0, 12.0).Shape()
    for i in range(1, HOLES):
        cut = BRepAlgoAPI_Cut(shape, _hole(10.0 * i, 15, 12, -7))
        cut.Build()
        merge = ShapeUpgrade_UnifySameDomain(cut.Shape(), True, True, False)
        merge.Build()
        shape = merge.Shape()


def full_rebuild() -> str:
    """full rebuild, 40 steps, against the bare kernel calls for the same shapes | 1.4× | 1.15×"""
    document = plate()
    return _told(ratio(lambda: build(document, Cache()), bare, 7))


def _told(found: tuple[float, float, float]) -> str:
    return f"{found[0]:.2f}× ({1000 * found[1]:.0f} ms against {1000 * found[2]:.0f} ms)"


def grid(side: int) -> Document:
    """A plate with side × side through holes, all of one sketch and one cut."""
    edge = 10 * (side + 1)
    corners = [(0, 0), (edge, 0), (edge, edge), (0, edge)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": corners[i], "q": corners[(i + 1) % 4]} for i in range(4)]
    holes = [
        {"kind": "circle", "id": f"c{k + 1}", "c": (10 * (k % side) + 10, 10 * (k // side) + 10), "r": 3}
        for k in range(side * side)
    ]
    top = {"kind": "datum", "plane": "top"}
    through = {"kind": "through_all"}
    return load(
        {
            "name": "bench",
            "steps": [
                {"kind": "sketch", "id": "s1", "on": top, "sketch": {"entities": lines}},
                {"kind": "extrude", "id": "s2", "sketch": "s1", "extent": {"kind": "depth", "depth": "12"}},
                {"kind": "sketch", "id": "s3", "on": top, "sketch": {"entities": holes}},
                {"kind": "extrude", "id": "s4", "sketch": "s3", "operation": "cut", "extent": through},
            ],
        }
    )


def pattern_grid(side: int) -> Document:
    """A plate with one hole, repeated side × side by a pattern step."""
    plain = grid(1).model_dump(mode="json")
    edge = 10 * (side + 1)
    corners = [(0, 0), (edge, 0), (edge, edge), (0, edge)]
    plain["steps"][0]["sketch"]["entities"] = [
        {"kind": "line", "id": f"l{i + 1}", "p": corners[i], "q": corners[(i + 1) % 4]} for i in range(4)
    ]
    rows = {"count": str(side), "spacing": "10", "second_count": str(side), "second_spacing": "10"}
    x, y = ({"kind": "axis", "axis": a} for a in "xy")
    plain["steps"].append({"kind": "pattern", "id": "s5", "of": ["s4"], "along": x, "second": y, **rows})
    return load(plain)


def pattern_cut() -> str:
    """400-instance pattern cut (a pattern step, one fused boolean) against the bare kernel | 1.3× | 1.1×"""
    document = pattern_grid(20)
    return _told(ratio(lambda: build(document, Cache()), _bare_grid(20), 5))


def many_cut() -> str:
    """400-hole cut as one boolean (one sketch, one step) against the bare kernel | 1.3× | 1.1×"""
    return _told(ratio(lambda: build(grid(20), Cache()), _bare_grid(20), 5))


def _bare_grid(side: int) -> Callable[[], None]:
    edge = 10.0 * (side + 1)

    def theirs() -> None:
        tools = List_TopoDS_Shape()
        for k in range(side * side):
            tools.Append(_hole(10.0 * (k % side) + 10, 10.0 * (k // side) + 10, 0, 13))
        cut = BRepAlgoAPI_Cut()
        body = List_TopoDS_Shape()
        body.Append(BRepPrimAPI_MakeBox(edge, edge, 12.0).Shape())
        cut.SetArguments(body)
        cut.SetTools(tools)
        cut.Build()
        merge = ShapeUpgrade_UnifySameDomain(cut.Shape(), True, True, False)
        merge.Build()

    return theirs


def last_step() -> str:
    """editing the last step of a 40-step part against a full rebuild | 10 % | 4 %"""
    document = plate()
    cache = Cache()
    build(document, cache)
    depths = iter(f"{5 + k / 100}" for k in range(1, 1000))

    def edit() -> None:
        step = document.steps[-1]
        assert isinstance(step, ExtrudeStep)
        last = step.model_copy(update={"extent": step.extent.model_copy(update={"depth": next(depths)})})
        build(document.model_copy(update={"steps": [*document.steps[:-1], last]}), cache)

    found = ratio(edit, lambda: build(document, Cache()), 5)
    return f"{100 * found[0]:.1f} % ({1000 * found[1]:.0f} ms)"


def mesh_bytes() -> str:
    """mesh sent, bytes against binary STL of the same mesh | 0.5 | 0.3"""
    solid = build(plate(), Cache()).state.bodies[0].solid
    made = mesh(solid, [e for e, _ in neighbours(solid)])
    return f"{len(packed(made)) / len(stl([made], '')):.2f}"


def worker_memory() -> str:
    """memory of a kernel process, from 100 to 500 rebuilds | ±10 % | flat"""
    import resource

    document = plate()
    sizes = []
    cache = Cache(limit=7 << 20)
    for k in range(500):
        last = document.steps[-1]
        extent = last.extent.model_copy(update={"depth": f"{5 + k / 1000}"})  # type: ignore[union-attr]
        last = last.model_copy(update={"extent": extent})
        build(document.model_copy(update={"steps": [*document.steps[:-1], last]}), cache)
        if k in (100, 499):
            sizes.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    return f"{100 * (sizes[1] / sizes[0] - 1):+.1f} % (peak {sizes[1]:.0f} MiB)"


ROWS = [full_rebuild, last_step, pattern_cut, many_cut, mesh_bytes, worker_memory]
