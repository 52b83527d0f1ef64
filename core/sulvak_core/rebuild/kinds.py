"""Each kind of step: what goes into it, and the work it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from ..part.expressions import Kind
from ..sketch.model import Sketch
from ..solid.frame import XYZ, Frame, plus, scaled
from ..solid.measure import surface
from ..solid.place import Placing, moved_by, placed, turned
from ..solid.shapes import Shape, Solid
from ..steps import walk
from ..steps.bodies_steps import CombineStep, MoveStep, RemoveStep, SplitStep
from ..steps.body_step import BodyStep
from ..steps.datum_step import AXES, NEEDED, POINTS, DatumStep
from ..steps.extrude_step import ExtrudeStep, ToFace
from ..steps.hole_step import HoleStep
from ..steps.import_step import ImportStep
from ..steps.pattern_step import PatternStep
from ..steps.refine_steps import ChamferStep, DraftStep, FilletStep, ShellStep
from ..steps.revolve_step import RevolveStep
from ..steps.text_step import TextStep
from . import bodies, datums, draft, refine
from . import extrude as extruding
from . import hole as drilling
from . import pattern as repeating
from . import revolve as revolving
from . import text as lettering
from .pointing import Axis
from .state import State
from .version import content_hash
from .working import Done, StepFailure, Tooling, targets, used

if TYPE_CHECKING:
    from .engine import Run, StepReport


def content(run: Run, step: Any) -> dict[str, Any]:
    """What a step says, with its expressions worked out; its name and note leave the result as it is."""
    plain, expressions = run.cache.of(step, "content", _said_by)
    return {"step": plain, "values": [(path, run.names.value(text, kind)) for path, text, kind in expressions]}


def _said_by(step: Any) -> tuple[Any, list[tuple[walk.Path, str, Kind]]]:
    """A step without its expressions, and those expressions by their paths: their values stand for them."""
    expressions = [(path, text, kind) for path, text, kind, _ in walk.placed_expressions(step)]
    plain = step.model_dump(mode="json", exclude={"name", "group", "note", "suppressed"})
    for path, _, _ in expressions:
        here = plain
        for key in path[:-1]:
            here = here[key]
        here[path[-1]] = None
    return plain, expressions


def _frame(f: Frame | None) -> Any:
    return None if f is None else [f.origin, f.x, f.y]


def _axis(a: Axis | None) -> Any:
    return None if a is None else [a.at, a.direction]


def _drawn(run: Run, sketch: Sketch) -> str:
    """What a sketch's outlines are, as a hash."""
    return run.cache.of(
        sketch,
        "drawn",
        lambda s: content_hash(
            [(e.model_dump(mode="json"), e.id in s.given) for e in s.entities if not e.construction]
        ),
    )


def _length(run: Run, text: str) -> float:
    return run.names.value(text, "length")


def _angle(run: Run, text: str) -> float:
    return run.names.value(text, "angle")


def _whole(run: Run, text: str, field: str) -> int:
    value = run.names.value(text, "number")
    if abs(value - round(value)) > 1e-9 or not 1 <= value <= repeating.MOST:
        raise StepFailure(f"A count is a whole number from 1 to {repeating.MOST}.", field=field)
    return round(value)


# -- from sketches -----------------------------------------------------------------------------------


def _extrude(run: Run, step: ExtrudeStep, report: StepReport) -> None:
    source, sketch, frame = run.source(step.sketch)
    extent = step.extent
    depth = _length(run, extent.depth) if hasattr(extent, "depth") else None
    back = _length(run, extent.back) if hasattr(extent, "back") else 0.0
    if (depth is not None and depth <= 0) or back < 0:
        raise StepFailure("A depth is more than zero; to go the other way, turn it round.", field="depth")
    wall = _length(run, step.wall) if step.wall else None
    if wall is not None and wall <= 0:
        raise StepFailure("A wall's thickness is more than zero.", field="wall")
    taper = _angle(run, step.taper)
    if abs(taper) > 89:
        raise StepFailure("A taper is less than 89°.", field="taper")
    reached = surface(run.pointing().face(extent.face)[1]) if isinstance(extent, ToFace) else None
    offset = _length(run, extent.offset) if isinstance(extent, ToFace) else 0.0
    inputs = extruding.Inputs(
        frame,
        lambda: run.profile(step.sketch, sketch),
        sketch,
        run.on_face(source),
        depth,
        back,
        offset,
        taper,
        wall,
        reached,
        extruding.leaning(run.pointing().axis(step.along).direction, frame) if step.along else None,
    )
    before = run.state
    run.tooling[step.id] = Tooling(
        step.operation, step.bodies, lambda p, s: extruding.again(step, inputs, before, p, s)
    )
    own = content(run, step) | {
        "frame": _frame(frame),
        "on_face": inputs.on_face,
        "way": inputs.way,
        "sketch": _drawn(run, sketch),
    }
    run.kept(own, report, lambda: extruding.extrude(step, inputs, run.state))


def _revolve(run: Run, step: RevolveStep, report: StepReport) -> None:
    _, sketch, frame = run.source(step.sketch)
    axis, angle = run.pointing().axis(step.axis), _angle(run, step.angle)
    region = run.profile(step.sketch, sketch)

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        return revolving.again(revolving.tools(step, frame, region, axis, angle), placing)

    run.tooling[step.id] = Tooling(step.operation, step.bodies, make)
    own = content(run, step) | {"frame": _frame(frame), "axis": _axis(axis), "sketch": _drawn(run, sketch)}
    run.kept(own, report, lambda: revolving.revolve(step, frame, region, axis, angle, run.state))


def _hole(run: Run, step: HoleStep, report: StepReport) -> None:
    _, sketch, frame = run.source(step.sketch)
    if drilling.size_of(step) is None and _length(run, step.diameter) <= 0:
        raise StepFailure("A diameter is more than zero.", field="diameter")
    if step.end == "blind" and _length(run, step.depth) <= 0:
        raise StepFailure("A depth is more than zero; to go the other way, turn it round.", field="depth")
    sizes = drilling.Sizes(
        _length(run, step.diameter),
        _length(run, step.depth),
        _angle(run, step.tip_angle),
        _length(run, step.bore_diameter),
        _length(run, step.bore_depth),
        _length(run, step.sink_diameter),
        _angle(run, step.sink_angle),
        _length(run, step.thread_depth) if step.thread_depth and step.form == "tapped" else None,
    )
    before = run.state

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        if state is None or placing is None or placing.mirrors:
            return drilling.again(drilling.tools(step, sizes, frame, sketch, targets(before, step.bodies)), placing)
        here = {b.id for b in state.bodies}
        on = [b for b in state.bodies if step.bodies is None or b.id in set(step.bodies) & here]
        return drilling.tools(step, sizes, placing.frame(frame), sketch, on)

    run.tooling[step.id] = Tooling("cut", step.bodies, make)
    own = content(run, step) | {"frame": _frame(frame), "places": drilling.places(step, sketch)}
    run.kept(own, report, lambda: drilling.hole(step, sizes, frame, sketch, run.state))


def _text(run: Run, step: TextStep, report: StepReport) -> None:
    if step.face is None:
        raise StepFailure("Press the face the text stands on.", pick="face")
    height, depth, x, y = (_length(run, text) for text in (step.height, step.depth, step.x, step.y))
    sizes = lettering.Sizes(height, depth, x, y, _angle(run, step.angle))
    body, face = run.pointing().face(step.face)
    on = [run.state.bodies[body]]
    operation = "cut" if step.operation == "engrave" else "add"

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        made = lettering.tools(step, sizes, face)
        return [placed(m, placing) for m in made] if placing else made

    def work() -> Done:
        beside = StepFailure(
            "Letters lie beside the material here: the middle of the face may be a hole. Move the text, make it "
            "smaller, or press another face.",
            field="x",
        )

        def missed() -> dict[str, Any]:
            raise beside

        done = used(step.id, operation, run.state, on, make(None, None), missed)
        if len(done.state.bodies) > len(run.state.bodies):  # raised letters that stand on nothing
            raise beside
        return done

    run.tooling[step.id] = Tooling(operation, [on[0].id], make)
    run.kept(content(run, step), report, work)


# -- repeating ---------------------------------------------------------------------------------------


def _pattern(run: Run, step: PatternStep, report: StepReport) -> None:
    pointing = run.pointing()
    rows = step.form == "linear"
    layout = repeating.Layout(
        pointing.axis(step.along) if step.along and step.form != "mirror" else None,
        _whole(run, step.count, "count"),
        _length(run, step.spacing),
        pointing.axis(step.second) if step.second and rows else None,
        _whole(run, step.second_count, "second_count"),
        _length(run, step.second_spacing),
        _angle(run, step.angle),
        pointing.frame(step.plane, "mirror plane") if step.plane and step.form == "mirror" else None,
    )
    for ident in step.of:
        n = run.document.position(ident)
        if run.broken.get(ident):
            raise StepFailure(f"Step {n} is {run.broken[ident]}, so it cannot be repeated; put that right first.")
        if ident not in run.tooling:
            raise StepFailure(
                f"Step {n} treats what is there and cannot be repeated by itself; repeat what it was done to, or the "
                "body.",
                pick="steps",
            )
    tooling = {i: run.tooling[i] for i in step.of}
    own = content(run, step) | {
        "along": _axis(layout.along),
        "second": _axis(layout.second),
        "plane": _frame(layout.plane),
        "of": step.of,
    }

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        made: list[Solid] = []
        for ident in step.of:
            for _, place in repeating.copies(step, layout):
                made += tooling[ident].make(place.then(placing) if placing else place, state)
        return made

    faces: dict[int, list[Shape]] = {}
    for body, face in pointing.faces(step.faces):
        faces.setdefault(body, []).append(face)
    operations = {tooling[i].operation for i in step.of}
    if len(operations) == 1 and not step.bodies and not faces:
        run.tooling[step.id] = Tooling(operations.pop(), None, make)
    run.kept(own, report, lambda: repeating.pattern(step, layout, tooling, faces, run.state))


# -- treating ----------------------------------------------------------------------------------------


def _fillet(run: Run, step: FilletStep, report: StepReport) -> None:
    radii = [_length(run, g.radius) for g in step.groups]
    run.kept(content(run, step), report, lambda: refine.round_edges(step, radii, run.pointing(), run.state))


def _chamfer(run: Run, step: ChamferStep, report: StepReport) -> None:
    first, second, angle = _length(run, step.first), _length(run, step.second), _angle(run, step.angle)
    run.kept(
        content(run, step),
        report,
        lambda: refine.chamfer_edges(step, first, second, angle, run.pointing(), run.state),
    )


def _draft(run: Run, step: DraftStep, report: StepReport) -> None:
    angles, other = [_angle(run, g.angle) for g in step.groups], _angle(run, step.other)
    own = content(run, step) | {"planes": [_frame(f) for f in draft.planes(step, run.pointing())]}
    run.kept(own, report, lambda: draft.draft_faces(step, angles, other, run.pointing(), run.state))


def _shell(run: Run, step: ShellStep, report: StepReport) -> None:
    thickness, own = _length(run, step.thickness), [_length(run, g.thickness) for g in step.own]
    run.kept(content(run, step), report, lambda: refine.shell_body(step, thickness, own, run.pointing(), run.state))


# -- from files --------------------------------------------------------------------------------------


def _import(run: Run, step: ImportStep, report: StepReport) -> None:
    if not run.cache.has_file(step.file):
        raise StepFailure(f"The file {step.title or 'of this step'} is not here; bring it in again.")
    own = {"file": step.file, "id": step.id}
    run.kept(own, report, lambda: bodies.take_in(step, run.cache.file(step.file), run.state))


# -- whole bodies ------------------------------------------------------------------------------------


def _combine(run: Run, step: CombineStep, report: StepReport) -> None:
    run.kept(content(run, step), report, lambda: bodies.combine_bodies(step, run.state))


def _split(run: Run, step: SplitStep, report: StepReport) -> None:
    if step.by == "sketch":
        if step.outline is None:
            raise StepFailure("Choose the sketch whose outline parts the bodies.", pick="outline")
        _, sketch, frame = run.source(step.outline)
        own = content(run, step) | {"frame": _frame(frame), "sketch": _drawn(run, sketch)}
        run.kept(own, report, lambda: bodies.split_along(step, frame, sketch, run.state))
        return
    if step.by == "face":
        if step.face is None:
            raise StepFailure("Choose the face that parts the bodies.", pick="face")
        face = run.pointing().face(step.face)[1]
        run.kept(content(run, step), report, lambda: bodies.split_at(step, face, run.state))
        return
    if step.plane is None:
        raise StepFailure("Choose the plane that parts the bodies.", pick="plane")
    plane = run.pointing().frame(step.plane, "splitting plane")
    own = content(run, step) | {"plane": _frame(plane)}
    run.kept(own, report, lambda: bodies.split_bodies(step, plane, run.state))


def _move(run: Run, step: MoveStep, report: StepReport) -> None:
    axis = run.pointing().axis(step.axis) if step.axis else None
    by = (_length(run, step.x), _length(run, step.y), _length(run, step.z))
    placing = moved_by(by)
    if axis is not None:
        placing = turned(axis.at, axis.direction, _angle(run, step.angle)).then(placing)
    own = content(run, step) | {"axis": _axis(axis)}
    run.kept(own, report, lambda: bodies.move_bodies(step, placing, run.state))


def _remove(run: Run, step: RemoveStep, report: StepReport) -> None:
    run.kept(content(run, step), report, lambda: bodies.remove_bodies(step, run.state))


def _body(run: Run, step: BodyStep, report: StepReport) -> None:
    if step.body not in {b.id for b in run.state.bodies}:
        raise StepFailure("The body this step names is gone; pick another.", pick="body")
    changes: dict[str, Any] = {
        k: v for k, v in (("title", step.title), ("colour", step.colour), ("material", step.material)) if v
    }
    named = [replace(b, **changes) if b.id == step.body else b for b in run.state.bodies]
    run.kept(content(run, step), report, lambda: Done(State(named), ""))
    report.volume_change = 0.0


def _datum(run: Run, step: DatumStep, report: StepReport) -> None:
    if step.form in POINTS:
        at = run.guides.points[step.id] = _point_of(run, step)
        report.extra = {"point": at}
    elif step.form in AXES:
        found = run.guides.axes[step.id] = _axis_of(run, step)
        report.extra = {"axis": {"at": found.at, "direction": found.direction}}
    else:
        made = run.guides.planes[step.id] = _plane_of(run, step)
        report.frame = {"origin": made.origin, "x": made.x, "y": made.y, "normal": made.normal}


def _points_of(run: Run, step: DatumStep) -> list[XYZ]:
    """Where the points a datum is made from are; none are looked for where its form takes none."""
    datums.counted(step)
    return [run.pointing().point(c) for c in step.corners] if step.form in NEEDED else []


def _plane_of(run: Run, step: DatumStep) -> Frame:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "points":
        return datums.through(points)
    plane = pointing.frame(step.plane) if step.plane else None
    if step.form == "tangent":
        if plane is None or step.face is None:
            raise StepFailure("Choose a plane, and the round face to touch.", pick="face" if plane else "plane")
        return datums.touching(plane, surface(pointing.face(step.face)[1]), step.reverse)
    if step.form == "alongside" and plane is not None:
        return Frame(points[0], plane.x, plane.y)
    other = pointing.frame(step.other) if step.other else None
    axis = pointing.axis(step.axis) if step.axis else None
    return datums.plane_of(step, plane, other, axis, _length(run, step.distance), _angle(run, step.angle))


def _axis_of(run: Run, step: DatumStep) -> Axis:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "axis":
        if step.axis is None:
            raise StepFailure("Choose what the axis runs along: a straight or round edge, or a face.", pick="axis")
        return pointing.axis(step.axis)
    if step.form == "joining":
        return datums.joining(*points)
    if step.plane is None:
        raise StepFailure("Choose the plane: a flat face, or a datum plane.", pick="plane")
    plane = pointing.frame(step.plane)
    if step.form == "square":
        return Axis(points[0], plane.normal)
    if step.other is None:
        raise StepFailure("Choose the other plane that crosses the first in the axis.", pick="other")
    return datums.crossing(plane, pointing.frame(step.other))


def _point_of(run: Run, step: DatumStep) -> XYZ:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "point":
        return points[0]
    if step.form == "between":
        return scaled(plus(*points), 0.5)
    if step.axis is None:
        raise StepFailure("Choose a round edge or an axis: press it on the part.", pick="axis")
    if step.form == "centre":
        return pointing.centre(step.axis)
    if step.plane is None:
        raise StepFailure("Choose the plane the axis goes through.", pick="plane")
    return datums.meeting(pointing.axis(step.axis), pointing.frame(step.plane))


WORK: dict[str, Callable[[Run, Any, StepReport], None]] = {
    "extrude": _extrude,
    "revolve": _revolve,
    "hole": _hole,
    "text": _text,
    "pattern": _pattern,
    "fillet": _fillet,
    "chamfer": _chamfer,
    "draft": _draft,
    "shell": _shell,
    "combine": _combine,
    "split": _split,
    "move": _move,
    "remove": _remove,
    "import": _import,
    "body": _body,
    "datum": _datum,
}
