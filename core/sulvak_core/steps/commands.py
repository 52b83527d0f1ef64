"""All commands that change a part: the only way a document changes. Each is data; ``effects.apply`` carries it out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from ..part.document import (
    LengthText,
    MassTarget,
    OwnMaterial,
    StepId,
    Strict,
    Text,
)
from ..part.errors import Refusal, validation_words
from ..part.shop import ShopLimits
from ..part.units import MassUnit
from ..sketch.check import FindingKind
from ..sketch.model import XY, AnyEntity, Constraint, Dimension, Ident, Ref
from .drawing_commands import AddSize, PlaceSizes, PlaceViews, RemoveSize, SetDrawing
from .kinds.sketch import Projection
from .reference_commands import AddReference, RemoveReference, SetReference
from .registry import AnyStep
from .sheet_commands import (
    AddSheet,
    DeleteCallout,
    GaugeCallout,
    LinkCallout,
    NewerSheet,
    NumberCallouts,
    RemoveSheet,
    SetCallout,
    SetPage,
    SetSheet,
)

Tolerance = Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)]


class PartChanges(Strict):
    """Only the fields that are given change."""

    name: Annotated[str, Field(min_length=1, max_length=120)] | None = None
    number: Text | None = None
    description: Annotated[str, Field(max_length=2000)] | None = None
    revision: Annotated[str, Field(max_length=20)] | None = None
    unit: Literal["mm", "in"] | None = None
    mass_unit: MassUnit | None = None
    projection: Literal["first", "third"] | None = None
    material: Text | None = None
    materials: Annotated[list[OwnMaterial], Field(max_length=100)] | None = None
    target_mass: MassTarget | None = None
    general_tolerance: Text | None = None
    shop: ShopLimits | None = None
    properties: dict[str, Text] | None = None


class SetPart(Strict):
    do: Literal["set_part"] = "set_part"
    changes: PartChanges


class AddStep(Strict):
    """``after`` None puts it at the hold point, or at the end."""

    do: Literal["add_step"] = "add_step"
    step: AnyStep
    after: StepId | None = None


class SetStep(Strict):
    """``changes`` replaces the named fields of a step, whole."""

    do: Literal["set_step"] = "set_step"
    step: StepId
    changes: dict[str, Any]


class GroupSteps(Strict):
    """The steps from ``first`` to ``last`` become a group called ``name``; without a name they leave theirs."""

    do: Literal["group_steps"] = "group_steps"
    first: StepId
    last: StepId
    name: Annotated[str, Field(max_length=120)] = ""


class SuppressSteps(Strict):
    """Steps left out of the build, or taken back into it, at once."""

    do: Literal["suppress_steps"] = "suppress_steps"
    steps: Annotated[list[StepId], Field(min_length=1, max_length=2000)]
    suppressed: bool = True


class DeleteStep(Strict):
    """``with_dependents`` also takes out what is built on it; without it that is refused and told."""

    do: Literal["delete_step"] = "delete_step"
    step: StepId
    with_dependents: bool = False


class MoveStep(Strict):
    """``before`` None moves the step to the end. ``bring`` takes along the sketches and datums it is made from, where
    they would otherwise come after it."""

    do: Literal["move_step"] = "move_step"
    step: StepId
    before: StepId | None = None
    bring: bool = False


class SetHold(Strict):
    do: Literal["set_hold"] = "set_hold"
    step: StepId | None = None


class SketchAdd(Strict):
    """Draw and tie down. ``inferred`` names the ties that were noticed while drawing, not asked for.

    ``projections`` tell which of the entities are edges of the part; where those stand is the part's to say. ``shown``:
    where what is there already was seen to go with these ties.
    """

    do: Literal["sketch_add"] = "sketch_add"
    step: StepId
    entities: list[AnyEntity] = Field(default_factory=list, max_length=5000)
    constraints: list[Constraint] = Field(default_factory=list, max_length=5000)
    dimensions: list[Dimension] = Field(default_factory=list, max_length=2000)
    inferred: list[Ident] = Field(default_factory=list, max_length=5000)
    projections: list[Projection] = Field(default_factory=list, max_length=2000)
    shown: list[AnyEntity] = Field(default_factory=list, max_length=5000)


class SketchDimension(Strict):
    do: Literal["sketch_dimension"] = "sketch_dimension"
    step: StepId
    dimension: Ident
    changes: dict[str, Any]


class SketchDrag(Strict):
    """Pull a point, or the rim of a circle or arc, to a place. ``shown``: what was seen to move, as it was let go; it
    stays just so, since where a linkage comes to lie depends on the way there."""

    do: Literal["sketch_drag"] = "sketch_drag"
    step: StepId
    ref: Ref
    to: XY
    shown: list[AnyEntity] = Field(default_factory=list, max_length=5000)


class SketchDelete(Strict):
    do: Literal["sketch_delete"] = "sketch_delete"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=10000)


class SketchConstruction(Strict):
    do: Literal["sketch_construction"] = "sketch_construction"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=10000)
    on: bool


class SketchFillet(Strict):
    """Round corners, each named by the end of a line that meets another there, with one radius."""

    do: Literal["sketch_fillet"] = "sketch_fillet"
    step: StepId
    corners: list[Ref] = Field(min_length=1, max_length=500)
    radius: LengthText


class SketchChamfer(Strict):
    """Cut corners off: ``distance`` along the line whose end names the corner, and along the other line the same,
    ``second``, or as far as ``angle`` (degrees) between the cut and the first line says."""

    do: Literal["sketch_chamfer"] = "sketch_chamfer"
    step: StepId
    corners: list[Ref] = Field(min_length=1, max_length=500)
    distance: LengthText
    second: Annotated[str, Field(max_length=200)] = ""
    angle: Annotated[str, Field(max_length=200)] = ""


class SketchOffset(Strict):
    """Copy a chain of lines and arcs to the side on which ``at`` lies, kept at one distance."""

    do: Literal["sketch_offset"] = "sketch_offset"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=400)
    distance: LengthText
    at: XY


class TrimPlace(Strict):
    entity: Ident
    at: XY


class SketchTrim(Strict):
    """Take out the piece of an entity nearest to ``at``, between what crosses it; ``then`` more pieces after it.

    An entity that is not there any more because a piece before changed it is found again by its place.
    """

    do: Literal["sketch_trim"] = "sketch_trim"
    step: StepId
    entity: Ident
    at: XY
    then: list[TrimPlace] = Field(default_factory=list, max_length=500)


class SketchExtend(Strict):
    """Carry the end of an entity nearest to ``at`` on to the next curve ahead."""

    do: Literal["sketch_extend"] = "sketch_extend"
    step: StepId
    entity: Ident
    at: XY


class SketchSplit(Strict):
    """Cut an entity in two at the place nearest to ``at``."""

    do: Literal["sketch_split"] = "sketch_split"
    step: StepId
    entity: Ident
    at: XY


class SketchMirror(Strict):
    """Copies of entities on the other side of the line or axis ``about``, tied to stay mirror images."""

    do: Literal["sketch_mirror"] = "sketch_mirror"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=2000)
    about: Ref


class SketchText(Strict):
    """Write something else in a text; its letters keep their height where nothing else says otherwise."""

    do: Literal["sketch_text"] = "sketch_text"
    step: StepId
    entity: Ident
    text: Annotated[str, Field(min_length=1, max_length=200)]


class SketchPattern(Strict):
    """Copies of entities: in rows from ``start`` to each of ``ends``, or round the point ``about``.

    One count (with the original) for each direction; ``spacings`` may be empty texts, then the steps stay free.
    ``angles`` (degrees from the horizontal axis) turn the directions and hold them; empty texts leave them as shown.
    ``angle`` (circular) goes from one to the next; empty: evenly all round.
    """

    do: Literal["sketch_pattern"] = "sketch_pattern"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=500)
    counts: list[Annotated[str, Field(min_length=1, max_length=200)]] = Field(min_length=1, max_length=2)
    start: XY | None = None
    ends: list[XY] = Field(default_factory=list, max_length=2)
    spacings: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=2)
    angles: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=2)
    about: Ref | None = None
    angle: Annotated[str, Field(max_length=200)] = ""


class SketchRepattern(Strict):
    """Change a pattern's ``count``, ``second`` count, ``angle`` or what is ``left_out``; or let its copies go."""

    do: Literal["sketch_repattern"] = "sketch_repattern"
    step: StepId
    pattern: Ident
    changes: dict[str, Any] = Field(default_factory=dict)
    let_go: bool = False


class SketchMove(Strict):
    """Move entities (or a copy of them) so that ``base`` comes to ``to``, turned and scaled about it."""

    do: Literal["sketch_move"] = "sketch_move"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=2000)
    base: XY
    to: XY
    turn: Annotated[str, Field(max_length=200)] = ""
    scale: Annotated[str, Field(max_length=200)] = ""
    copy_it: bool = False


class SketchPaste(Strict):
    """Put in what was copied from a sketch: entities and ties with the ids they had there."""

    do: Literal["sketch_paste"] = "sketch_paste"
    step: StepId
    entities: list[AnyEntity] = Field(min_length=1, max_length=2000)
    constraints: list[Constraint] = Field(default_factory=list, max_length=5000)
    dimensions: list[Dimension] = Field(default_factory=list, max_length=2000)
    base: XY
    to: XY


class SketchStencil(Strict):
    """Make a stencil of entities, with ``at`` as its insertion point: a step of its own before this one."""

    do: Literal["sketch_stencil"] = "sketch_stencil"
    step: StepId
    ids: list[Ident] = Field(min_length=1, max_length=500)
    at: XY
    name: Annotated[str, Field(min_length=1, max_length=60)]


class SketchPlacement(Strict):
    """Place a stencil with its insertion point at ``at``; ``onto`` joins it to a point there."""

    do: Literal["sketch_placement"] = "sketch_placement"
    step: StepId
    stencil: StepId
    at: XY
    turn: Annotated[str, Field(max_length=200)] = ""
    onto: Ref | None = None


class SketchLetGo(Strict):
    """Free a placement of its stencil; its geometry stays."""

    do: Literal["sketch_let_go"] = "sketch_let_go"
    step: StepId
    placement: Ident


class SketchMend(Strict):
    """Mend what the profile check finds within ``tolerance`` (mm): all of it, some kinds, or the findings named."""

    do: Literal["sketch_mend"] = "sketch_mend"
    step: StepId
    tolerance: Tolerance | None = None
    kinds: list[FindingKind] | None = None
    keys: list[Annotated[str, Field(max_length=300)]] | None = Field(default=None, max_length=5000)


class SetValue(Strict):
    """Make or change a named value; ``rename_to`` gives it another name everywhere."""

    do: Literal["set_value"] = "set_value"
    name: Annotated[str, Field(min_length=1, max_length=40)]
    expr: LengthText | None = None
    kind: Literal["length", "angle", "number"] = "length"
    rename_to: Annotated[str, Field(min_length=1, max_length=40)] | None = None


class SetExpression(Strict):
    """Type another expression where one stands: a named value (no ``step``), or in a step at ``path``, as the table of
    values names it: a dimension (``d3``), a pattern's value (``r1.count``), a field (``extent.back``)."""

    do: Literal["set_expression"] = "set_expression"
    step: StepId | None = None
    path: Annotated[str, Field(min_length=1, max_length=200)]
    expr: LengthText


class DeleteValue(Strict):
    do: Literal["delete_value"] = "delete_value"
    name: Annotated[str, Field(min_length=1, max_length=40)]


_Single = (
    SetPart
    | AddStep
    | SetStep
    | GroupSteps
    | SuppressSteps
    | DeleteStep
    | MoveStep
    | SetHold
    | SketchAdd
    | SketchDimension
    | SketchDrag
    | SketchDelete
    | SketchConstruction
    | SketchFillet
    | SketchMirror
    | SketchTrim
    | SketchOffset
    | SketchExtend
    | SketchSplit
    | SketchChamfer
    | SketchText
    | SketchPattern
    | SketchRepattern
    | SketchMove
    | SketchPaste
    | SketchStencil
    | SketchPlacement
    | SketchLetGo
    | SketchMend
    | SetValue
    | SetExpression
    | DeleteValue
    | SetSheet
    | AddSheet
    | RemoveSheet
    | NewerSheet
    | SetPage
    | SetCallout
    | NumberCallouts
    | DeleteCallout
    | GaugeCallout
    | LinkCallout
    | SetDrawing
    | PlaceSizes
    | PlaceViews
    | AddSize
    | RemoveSize
    | AddReference
    | SetReference
    | RemoveReference
)


class Together(Strict):
    """Several commands as one change: all are carried out, or none; one undo takes them back."""

    do: Literal["together"] = "together"
    commands: list[Annotated[_Single, Field(discriminator="do")]] = Field(min_length=1, max_length=400)


Command = Annotated[_Single | Together, Field(discriminator="do")]

_ADAPTER: TypeAdapter[Command] = TypeAdapter(Command)


def read(data: Any) -> Command:
    """A command from JSON data; Refusal if it is none."""
    try:
        return _ADAPTER.validate_python(data)
    except ValidationError as error:
        where, what = validation_words(error.errors()[0])
        raise Refusal(f"This request cannot be read: at {where}, {what}.") from None
