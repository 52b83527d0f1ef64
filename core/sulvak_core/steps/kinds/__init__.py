"""All kinds of step, each in its module: its model, its sentence, how it starts. In the order they are offered in."""

from ..kind import StepKind
from .body import BODY
from .chamfer import CHAMFER
from .combine import COMBINE
from .datum import DATUM
from .draft import DRAFT
from .extrude import EXTRUDE
from .fillet import FILLET
from .hole import HOLE
from .import_file import IMPORT
from .move import MOVE
from .pattern import PATTERN
from .remove import REMOVE
from .revolve import REVOLVE
from .rib import RIB
from .shell import SHELL
from .sketch import SKETCH
from .split import SPLIT
from .text import TEXT

KINDS: tuple[StepKind, ...] = (
    SKETCH,
    EXTRUDE,
    REVOLVE,
    RIB,
    HOLE,
    PATTERN,
    TEXT,
    DATUM,
    FILLET,
    CHAMFER,
    DRAFT,
    SHELL,
    COMBINE,
    SPLIT,
    MOVE,
    REMOVE,
    IMPORT,
    BODY,
)
