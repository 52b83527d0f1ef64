"""Mass figures seen in a frame of the part's origin, a datum or a sketch; principal moments and axes of inertia."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..rebuild.engine import Build
from ..solid.extent import box
from ..solid.frame import Frame
from ..solid.place import Placing, placed
from ..steps.registry import Document
from ..steps.shared import title
from .mass import mass

Array = NDArray[np.float64]
ORIGIN = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))


def frames(document: Document, made: Build) -> dict[str, tuple[str, Frame]]:
    """The frames that figures can be seen in, by id, each with its name: the part's own origin under ""."""
    found = {"": ("the part's origin", ORIGIN)}
    for step in document.steps:
        frame = made.guides.planes.get(step.id) or made.guides.frames.get(step.id)
        point = made.guides.points.get(step.id)
        if frame is None and point is not None:
            frame = Frame(point, ORIGIN.x, ORIGIN.y)
        if frame is not None:
            found[step.id] = (title(document, step), frame)
    return found


def mass_in_frame(document: Document, made: Build, ident: str = "") -> dict[str, Any]:
    """What ``mass`` gives, with every ``centre``, ``inertia`` and ``box`` in a frame's own axes, and besides ``about``
    (the inertia about the frame's origin), ``moments`` and ``axes`` (principal moments, the least first, and their
    directions, unit vectors). Lengths in mm, masses in g, inertia in g·mm². An unknown frame is the part's origin."""
    name, frame = frames(document, made).get(ident) or ("the part's origin", ORIGIN)
    rows = np.array([frame.x, frame.y, frame.normal])
    origin = np.array(frame.origin)
    told = mass(document, made.state)
    figures = {k: v for k, v in told.items() if k not in ("bodies", "troubles")}
    boxes = [_box(body.solid, frame) for body in made.state.bodies]
    bodies = [{**_seen(b, rows, origin), "box": box_} for b, box_ in zip(told["bodies"], boxes, strict=True)]
    whole = _seen(figures, rows, origin)
    if boxes:
        whole["box"] = [np.min([b[0] for b in boxes], axis=0).tolist(), np.max([b[1] for b in boxes], axis=0).tolist()]
    return {"frame": ident, "frame_name": name, "bodies": bodies, "troubles": told["troubles"], **whole}


def _box(solid: Any, frame: Frame) -> list[list[float]]:
    rows = (frame.x, frame.y, frame.normal)
    by = tuple(-float(np.dot(r, frame.origin)) for r in rows)
    if rows == (ORIGIN.x, ORIGIN.y, ORIGIN.normal):
        low, high = box(solid.shape)
        return [[v + b for v, b in zip(c, by, strict=True)] for c in (low, high)]
    return [list(c) for c in box(placed(solid, Placing(rows, by)).shape)]  # type: ignore[arg-type]


def _seen(figures: dict[str, Any], rows: Array, origin: Array) -> dict[str, Any]:
    centre = rows @ (np.array(figures["centre"]) - origin)
    seen: dict[str, Any] = {**figures, "centre": [float(v) + 0.0 for v in centre]}
    if figures["inertia"] is None:
        return {**seen, "about": None, "moments": None, "axes": None}
    inertia = rows @ np.array(figures["inertia"]) @ rows.T
    inertia = (inertia + inertia.T) / 2
    moments, axes = np.linalg.eigh(inertia)
    about = inertia + figures["mass"] * ((centre @ centre) * np.eye(3) - np.outer(centre, centre))
    return {
        **seen,
        "inertia": inertia.tolist(),
        "about": about.tolist(),
        "moments": [float(v) for v in moments],
        "axes": [_pointing(axes[:, k]) for k in range(3)],
    }


def _pointing(axis: Array) -> list[float]:
    """An axis towards its largest coordinate, so that it is told the same whichever way it came out."""
    k = int(np.argmax(np.abs(axis) > 0.999 * np.abs(axis).max()))
    axis = axis if axis[k] > 0 else -axis
    return [float(v) + 0.0 for v in np.where(np.abs(axis) < 1e-12, 0.0, axis)]
