"""A drawing as plain data: what stands where on its paper, to be taken hold of on a screen."""

from __future__ import annotations

from typing import Any

from .sheet import DrawnSheet, DrawnSize


def told(sheet: DrawnSheet) -> dict[str, Any]:
    """``size`` of the paper (mm), its ``paper`` and ``scale``; ``views`` and ``sizes`` with their places in mm from the
    lower left corner; ``left_out``: texts of sizes that no view shows; ``lost``: sizes added by hand whose places are
    gone, with the reason; ``overlaps``: how often something lies on something else."""
    return {
        "paper": sheet.paper,
        "size": list(sheet.size),
        "scale": sheet.scale,
        "views": [
            {
                "name": v.name,
                "seat": v.seat,
                "title": v.title,
                "at": list(v.at),
                "scale": v.scale,
                "outline": list(v.outline),
                "extent": list(v.extent),
            }
            for v in sheet.views
        ],
        "sizes": [_size(s) for s in sheet.sizes],
        "left_out": sheet.left_out,
        "lost": [{"key": k, "said": v} for k, v in sheet.lost.items()],
        "hidden": sheet.hidden,
        "unmeasured": sheet.unmeasured,
        "overlaps": sheet.overlaps(),
    }


def _size(s: DrawnSize) -> dict[str, Any]:
    """``kind``: whether it has a dimension line, an arc or a leader; ``along`` the way of its line."""
    kind = "line" if s.along is not None else "arc" if s.dimension and s.dimension.kind == "angle" else "leader"
    return {
        "key": s.key,
        "text": s.text,
        "view": s.view,
        "number": s.number,
        "kind": kind,
        "proven": s.proven,
        "said": s.said,
        "boxes": [list(b) for b in s.boxes],
        "overlaps": s.hits,
        "side": s.side,
        "at": list(s.at),
        "along": list(s.along) if s.along else None,
        "span": list(s.span),
        "apex": list(s.dimension.a) if kind == "arc" and s.dimension else None,
        "middle": list(s.dimension.middle) if s.dimension else None,
    }
