"""Parts and what is built of them."""

from __future__ import annotations

import builtins
import os
from collections.abc import Mapping
from datetime import UTC, datetime
from functools import cached_property
from pathlib import Path
from typing import Any, Literal

from sulvak_core.command_export import put
from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal as Refusal
from sulvak_core.part.shop import beginning
from sulvak_core.rebuild.state import Cache
from sulvak_core.steps.commands import read as read_command
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document, load
from sulvak_core.steps.value_table import value_table
from sulvak_core.steps.walk import field_name

_cache = Cache()  # what was built is known for the next part that shares steps with it


def _field(path: str) -> str:
    """``groups.1.radius`` → ``radius2``: what the field is known by in callouts."""
    return field_name(tuple(int(p) if p.isdigit() else p for p in path.split(".")))


class Part:
    """A part's document. It never changes; what changes it gives another part."""

    def __init__(self, document: Document, folder: Path | None = None) -> None:
        self.document, self.folder = document, folder

    @property
    def name(self) -> str:
        return self.document.name

    @property
    def number(self) -> str:
        return self.document.number

    @property
    def values(self) -> dict[str, str]:
        """The part's sizes as they are written, by name: named values and dimensions by theirs, others by their step
        and field (``s1.d2``, ``s2.depth``)."""
        return {name: row["expr"] for name, row in self._rows().items()}

    def value(self, name: str) -> float:
        """What a size comes to, in mm, degrees or plain. Raises Refusal for one that there is not, or that cannot be
        worked out."""
        found = self._row(name)["value"]
        if found is None:
            raise Refusal(f"“{name}” cannot be worked out.")
        return float(found)

    def _rows(self) -> dict[str, dict[str, Any]]:
        """Rows of the table of values by what they are called here."""
        return {row["name"] or f"{row['step']}.{_field(row['path'])}": row for row in value_table(self.document)}

    def _row(self, name: str) -> dict[str, Any]:
        row = self._rows().get(name)
        if row is None:
            raise Refusal(f"There is no size called “{name}”; see values.")
        return row

    def set(self, values: Mapping[str, str | float] | None = None, /, **named: str | float) -> Part:
        """The part with sizes at other values: numbers in the part's unit, or expressions (``"1/2 in"``, ``"2*wall"``).
        Raises Refusal where a sketch cannot follow."""
        document = self.document
        for name, value in {**(values or {}), **named}.items():
            row = self._row(name)
            expr = value if isinstance(value, str) else f"{value:.15g}"
            command = {"do": "set_expression", "step": row["step"], "path": row["path"], "expr": expr}
            document = apply(document, read_command(command)).document
        return Part(document, self.folder)

    def do(self, command: str, **fields: Any) -> Part:
        """The part after any command (docs/api.json names them): ``part.do("set_part", changes={"material": "PA 6"})``.
        Raises Refusal."""
        return Part(apply(self.document, read_command({"do": command, **fields})).document, self.folder)

    def build(self) -> Built:
        """The part built. Raises Refusal where a step fails, naming it."""
        from sulvak_core.command_line import Beside
        from sulvak_core.rebuild.engine import build

        imports = self.folder is not None and any(s.kind == "import" for s in self.document.steps)
        made = build(self.document, Cache(Beside(self.folder)) if imports and self.folder else _cache)
        if made.failed:
            raise Refusal(" ".join(f"Step {r.number} ({r.sentence}): {r.said}" for r in made.failed))
        if not made.state.bodies:
            raise Refusal("The route makes no solid; extrude a profile first.")
        return Built(self, made)

    def save(self, path: str | os.PathLike[str]) -> None:
        """Write the part file, whole or not at all."""
        put(Path(path), part_file.write(self.document).encode())

    def __repr__(self) -> str:
        return f"<Part {self.number} {self.name}: {len(self.document.steps)} steps>"


def open(path: str | os.PathLike[str]) -> Part:
    """A part file. Raises Refusal for what is none, OSError where it cannot be read."""
    from sulvak_core.command_line import foreign

    path = Path(path)
    with builtins.open(path, "rb") as file:
        data = file.read()
    if sentence := foreign(data):
        raise Refusal(sentence)
    return Part(part_file.read(data), path.parent)


def new(name: str, **fields: Any) -> Part:
    """An empty part; ``fields`` as ``unit="in"``, ``number``, ``material``. Raises Refusal."""
    shop = beginning(str(fields.get("unit", "mm"))).model_dump()
    return Part(load({"name": name, "shop": shop, **fields}))


class Built:
    """A part as it is built."""

    def __init__(self, part: Part, made: Any) -> None:
        self.part, self.made = part, made

    @cached_property
    def mass(self) -> dict[str, Any]:
        """``volume`` mm³, ``area`` mm², ``centre`` mm, ``mass`` g (None while a body has no material), ``inertia``
        g·mm², ``box`` mm, the ``target`` and whether it is ``within``; ``bodies`` each with the same."""
        from sulvak_core.inspect.mass import mass

        return mass(self.part.document, self.made.state)

    @property
    def grams(self) -> float:
        """Raises Refusal while a body has no material."""
        found = self.mass["mass"]
        if found is None:
            raise Refusal("A body has no material, so it cannot be weighed.")
        return float(found)

    @property
    def volume(self) -> float:
        """In mm³."""
        return float(self.mass["volume"])

    def prove(self) -> list[dict[str, Any]]:
        """A verdict for every callout: ``number``, ``state`` (proven, out, open …), ``measured``, ``said``."""
        from sulvak_core.inspect.prove import prove

        return prove(self.part.document, self.made)

    def check(self, *names: str) -> dict[str, dict[str, Any]]:
        """Checks of the shop by name (solid, mould, walls, cutters; those the part asks for): ``passed``, ``findings``,
        ``figures``. Raises Refusal for a name that is none."""
        from sulvak_core.making.checks import checked

        found = {}
        for name in names or self.part.document.shop.asked:
            if name not in ("solid", "mould", "walls", "cutters"):
                raise Refusal(f"There is no check called “{name}”; there are solid, mould, walls and cutters.")
            made = checked(self.part.document, self.made, name)  # type: ignore[arg-type]
            found[name] = {"passed": made.passed, "findings": [vars(f) for f in made.findings], "figures": made.figures}
        return found

    def measure(self, *picks: Mapping[str, Any]) -> dict[str, float]:
        """Figures of one place or between two, by name: ``built.measure({"kind": "face", "index": 0})``; ``body`` may
        be left out where there is one. Raises Refusal."""
        from sulvak_core.inspect.measuring import Pick, measure

        only = self.made.state.bodies[0].id
        answer = measure(self.part.document, self.made.state, [Pick.model_validate({"body": only, **p}) for p in picks])
        return {f.name: f.value for f in answer.figures}

    def compare(
        self,
        path: str | os.PathLike[str],
        within: float = 0.1,
        lay: bool = False,
        unit: Literal["um", "mm", "cm", "m", "in", "ft"] | None = None,
    ) -> dict[str, Any]:
        """A mesh (STL, 3MF, GLB) held against the part: ``figures`` in mm and shares, the ``worst`` places, the
        ``turn`` and ``at`` at which it was held, ``notes``. ``lay``: it is laid on the part first; ``unit``: of its
        figures, where the file does not say it (mm). Raises Refusal for what is no mesh, OSError where it cannot be
        read."""
        from sulvak_core.meshes.fit import held
        from sulvak_core.meshes.read import read_mesh

        found = read_mesh(Path(path).read_bytes())
        return held(self.made.state.bodies, found, unit, within, lay)

    def export(self, *paths: str | os.PathLike[str], deviation: float | None = None, owner: str = "") -> None:
        """Write files by their endings: .step, .stl, .3mf, .glb, and the drawing as .pdf, .svg, .dxf. All are made
        before the first is written. Raises Refusal for another ending."""
        files = [(Path(p), self._file(Path(p), deviation, owner)) for p in paths]
        for path, data in files:
            put(path, data)

    def _file(self, path: Path, deviation: float | None, owner: str) -> bytes:
        from sulvak_core.exchange import mesh_files, solid_files

        document, state = self.part.document, self.made.state
        form = path.suffix.lower()
        if form in (".step", ".stp"):
            return solid_files.step(document, state)
        if form in (".stl", ".3mf", ".glb"):
            write = {".stl": mesh_files.stl, ".3mf": mesh_files.threemf, ".glb": mesh_files.glb}[form]
            return bytes(write(document, state, deviation).data)
        if form in (".pdf", ".svg", ".dxf"):
            from sulvak_core.drawing.sheet import draw
            from sulvak_core.exchange.drawing_dxf import drawing_dxf
            from sulvak_core.exchange.drawing_pdf import drawing_pdf
            from sulvak_core.exchange.drawing_svg import drawing_svg

            drawn = {".pdf": drawing_pdf, ".svg": drawing_svg, ".dxf": drawing_dxf}[form]
            return drawn(draw(document, self.made, owner), document.name)
        raise Refusal(f"Sulvak writes .step, .stl, .3mf, .glb, .pdf, .svg and .dxf, not {path.name}.")

    def conditions(self) -> list[dict[str, Any]]:
        """What must hold before a release: ``key``, ``what``, ``holds``, ``said``."""
        from sulvak_core.release.conditions import plain
        from sulvak_core.release.pack import looked_over

        return plain(looked_over(self.part.document, self.made, "").conditions)

    def release(
        self,
        path: str | os.PathLike[str],
        by: str,
        reasons: Mapping[str, str] | None = None,
        at: str = "",
        owner: str = "",
    ) -> None:
        """Write the release pack. ``reasons``: for lines that do not hold, by their keys. Raises Refusal where one has
        none."""
        from sulvak_core.release.manifest import Release
        from sulvak_core.release.pack import pack

        when = at or datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        told = Release(self.part.document.revision, by, when, owner, reasons or {})
        put(Path(path), pack(self.part.document, self.made, told))

    def __repr__(self) -> str:
        bodies = len(self.made.state.bodies)
        return f"<Built {self.part.number} {self.part.name}: {bodies} bodies, {self.volume:.6g} mm³>"
