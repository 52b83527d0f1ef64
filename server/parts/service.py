"""Changing a part: every command in one transaction with its new version, guarded by the version the client saw."""

import copy
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import jsonpatch
from django.db import transaction

from kernel.queue import ask_for_build
from live.events import tell
from sulvak_core.part.difference import difference
from sulvak_core.part.document import sheets_in
from sulvak_core.part.errors import Refusal
from sulvak_core.steps import commands
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Opened
from sulvak_core.steps.shared import Outcome
from workspaces.materials import keep as keep_materials

from .models import LogEntry, PartRecord, StoredFile, VersionName
from .opened import changed, opened, read

SNAPSHOTS = 100  # every so many versions the document is kept whole, so that going back far costs no more than near


class Stale(Exception):
    """The client spoke of an older version; ``happened`` is what was done meanwhile."""

    def __init__(self, part: PartRecord, happened: list[dict[str, Any]]) -> None:
        super().__init__(part.version)
        self.part, self.happened = part, happened


def locked(part_id: UUID, seen: int, hold: bool = True) -> PartRecord:
    """The part, held until the transaction ends (or only looked at), if it is still of the version that was seen.
    Raises Stale."""
    rows = PartRecord.objects.select_for_update() if hold else PartRecord.objects
    part = rows.get(pk=part_id)
    if part.version != seen:
        entries = part.log.filter(version__gt=seen).select_related("user")[:50]
        raise Stale(part, [described(e) for e in entries])
    return part


def described(entry: LogEntry) -> dict[str, Any]:
    """A log entry for the screen."""
    return {
        "version": entry.version,
        "kind": entry.kind,
        "what": words(entry.command),
        "who": entry.user.get_username() if entry.user else "",
        "at": entry.at.isoformat(),
    }


_WORDS = {
    "set_part": "changed the part's data",
    "add_step": "added a step",
    "set_step": "changed a step",
    "delete_step": "deleted a step",
    "move_step": "moved a step",
    "set_hold": "moved the hold point",
    "sketch_add": "drew in a sketch",
    "sketch_dimension": "changed a dimension",
    "sketch_drag": "dragged in a sketch",
    "sketch_delete": "deleted in a sketch",
    "sketch_construction": "changed construction lines",
    "sketch_fillet": "rounded corners in a sketch",
    "sketch_trim": "trimmed in a sketch",
    "sketch_mirror": "mirrored in a sketch",
    "sketch_chamfer": "chamfered corners in a sketch",
    "sketch_extend": "extended in a sketch",
    "sketch_split": "split in a sketch",
    "sketch_offset": "offset a chain in a sketch",
    "sketch_mend": "mended a profile",
    "sketch_text": "changed a text in a sketch",
    "sketch_pattern": "made a pattern in a sketch",
    "sketch_repattern": "changed a pattern in a sketch",
    "sketch_move": "moved or copied in a sketch",
    "sketch_paste": "put something into a sketch",
    "sketch_stencil": "made a stencil",
    "sketch_placement": "placed a stencil",
    "sketch_let_go": "dissolved a stencil's placement",
    "set_value": "changed a named value",
    "delete_value": "deleted a named value",
    "set_sheet": "changed the sheet",
    "add_sheet": "added a sheet",
    "remove_sheet": "took a sheet away",
    "newer_sheet": "brought a newer issue of a sheet",
    "set_callout": "changed a callout",
    "gauge_callout": "pointed at what a callout means",
    "number_callouts": "numbered the balloons",
    "delete_callout": "deleted a callout",
    "set_page": "changed a page of the sheet",
    "link_callout": "linked a callout",
    "set_drawing": "changed the drawing",
    "place_sizes": "moved sizes on the drawing",
    "place_views": "moved views on the drawing",
    "add_size": "added a size to the drawing",
    "remove_size": "took a size off the drawing",
    "add_reference": "put a mesh beside the part",
    "set_reference": "placed a mesh beside the part",
    "remove_reference": "took a mesh away",
    "restore": "went back to an earlier version",
}


def words(command: dict[str, Any]) -> str:
    if command.get("do") == "together":
        return words(command["commands"][0])
    return _WORDS.get(command.get("do", ""), "made the part")


MESHES = ("model/stl", "model/3mf", "model/gltf-binary")
SHEETS = ("image/svg+xml", "image/png", "image/jpeg", "application/pdf", "image/vnd.dxf")


def _check_files(part: PartRecord, after: dict[str, Any]) -> None:
    """Raises Refusal where a part comes to speak of a file that its workspace does not have, or of another kind."""
    before = {s.get("file") for s in part.document["steps"] if s["kind"] == "import"}
    fresh = {s["file"] for s in after["steps"] if s["kind"] == "import"} - before
    here = StoredFile.objects.filter(workspace_id=part.workspace_id)
    if fresh and here.filter(sha256__in=fresh).count() < len(fresh):
        raise Refusal("The file of this step is not in this workspace; bring it in first.")
    had = {m["file"] for m in part.document.get("references", [])}
    brought = {m["file"] for m in after.get("references", [])} - had
    if brought and here.filter(sha256__in=brought, media_type__in=MESHES).count() < len(brought):
        raise Refusal("The file of this mesh is not in this workspace; bring it in first.")
    known = sheets_in(part.document)
    for sheet in (s for s in sheets_in(after) if s not in known):
        kind = here.filter(sha256=sheet["sha256"]).values_list("media_type", flat=True).first()
        if kind not in SHEETS or kind != sheet["media_type"]:
            raise Refusal("This drawing is not among the sheets of this workspace; bring it in first.")


def _store(part: PartRecord, known: Opened, made: Opened, user: Any, **entry: Any) -> None:
    """Make ``made`` the next version of a part that was ``known``, and log how it came about."""
    after = made.data
    _check_files(part, after)
    own = after.get("materials") or []
    if own and own != part.document.get("materials"):
        keep_materials(part.workspace_id, own)
    before = known.data if known.data == part.document else part.document  # the first shares its steps with ``after``
    part.version += 1
    part.document = after
    part.save(update_fields=["version", "document", "changed"])
    LogEntry.objects.create(
        part=part,
        version=part.version,
        user=user,
        forward=difference(before, after),
        backward=difference(after, before),
        document=after if part.version % SNAPSHOTS == 0 else None,
        **entry,
    )
    ask_for_build(part.pk)


def _done(part: PartRecord, known: Opened, made: Opened, user: Any, command: dict[str, Any]) -> None:
    """Store what a command made: it can be undone, and what was undone before cannot be redone any more."""
    _store(part, known, made, user, kind="command", command=command, undo_top=part.version + 1)


@dataclass
class Change:
    """A part that has been changed, and what it was before; ``outcome`` is what the command had to tell."""

    part: PartRecord
    before: Opened
    outcome: Outcome


def carry_out(part_id: UUID, seen: int, data: Any, user: Any) -> Change:
    """Apply a command to the version the client saw. Raises Refusal or Stale; either changes nothing."""
    command = commands.read(data)
    with transaction.atomic():
        part = locked(part_id, seen)
        before = opened(part)
        outcome = apply(before.document, command)
        after = changed(part_id, before, outcome.document)
        if after.data != before.data:
            _done(part, before, after, user, command.model_dump(mode="json", exclude_unset=True))
    return Change(part, before, outcome)


def document_at(part: PartRecord, version: int) -> dict[str, Any]:
    """The document as it was after ``version``; 0 is the empty part it began as. Raises Refusal."""
    if not 0 <= version <= part.version:
        raise Refusal("This part has no such version.")
    whole = part.log.filter(version__gte=version, document__isnull=False).order_by("version").first()
    document: dict[str, Any] = copy.deepcopy(part.document) if whole is None else whole.document
    last = part.version if whole is None else whole.version
    for backward in (
        part.log.filter(version__gt=version, version__lte=last).order_by("-version").values_list("backward", flat=True)
    ):
        document = jsonpatch.apply_patch(document, backward, in_place=True)
    return document


def _never_again(after: dict[str, Any], before: dict[str, Any]) -> dict[str, Any]:
    """Going back takes no number back: what was given once names nothing else later."""
    known = {
        s["id"]: s["sketch"].get("used", {}) for s in before["steps"] if "sketch" in s and isinstance(s["sketch"], dict)
    }
    steps = []
    for s in after["steps"]:
        if s["id"] in known and isinstance(s.get("sketch"), dict):
            mine = s["sketch"].get("used", {})
            used = {k: max(mine.get(k, 0), known[s["id"]].get(k, 0)) for k in sorted({*mine, *known[s["id"]]})}
            s = {**s, "sketch": {**s["sketch"], "used": used}}
        steps.append(s)
    return {**after, "steps": steps, "used": max(after["used"], before["used"])}


def next_ways(part: PartRecord) -> dict[str, dict[str, Any] | None]:
    """What ``undo`` would take back, and what was done to be taken back by ``redo``; None where there is nothing."""
    undo, redo = _tops(part)
    versions = {"undo": undo, "redo": part.version if redo else None}
    entries = {
        e.version: e
        for e in part.log.filter(version__in=[v for v in versions.values() if v])
        .select_related("user")
        .defer("forward", "backward", "document")
    }
    return {way: described(entries[v]) if v else None for way, v in versions.items()}


def restore(part_id: UUID, seen: int, version: int, user: Any) -> PartRecord:
    """Make the part as it was after ``version``. A change like any other: it can be undone, and nothing is lost."""
    with transaction.atomic():
        part = locked(part_id, seen)
        before = opened(part)
        after = read(part_id, _never_again(document_at(part, version), part.document))
        if after.data != before.data:
            _done(part, before, after, user, {"do": "restore", "to": version})
    return part


def name_version(part: PartRecord, version: int, name: str, user: Any) -> None:
    """Give a version a name, or take it away with an empty one. Raises Refusal."""
    if not 0 <= version <= part.version:
        raise Refusal("This part has no such version.")
    name = name.strip()
    if not name:
        VersionName.objects.filter(part=part, version=version).delete()
    else:
        VersionName.objects.update_or_create(part=part, version=version, defaults={"name": name[:80], "user": user})


def _tops(part: PartRecord, version: int | None = None) -> tuple[int | None, int | None]:
    """The versions that undo and redo would speak of, as they stood after ``version`` (now without one)."""
    at = part.log.filter(version=part.version if version is None else version)
    return at.values_list("undo_top", "redo_top").first() or (None, None)


def _tops_after(part: PartRecord, kind: str, target: int) -> dict[str, int | None]:
    """What can be undone and redone once ``target`` has been undone or redone."""
    if kind == "undo":
        return {"undo_top": _tops(part, target - 1)[0], "redo_top": target}
    undone = part.log.filter(kind="undo", target=target).order_by("-version").values_list("version", flat=True)[0]
    return {"undo_top": target, "redo_top": _tops(part, undone - 1)[1]}


def step_back(part_id: UUID, seen: int, user: Any) -> Change:
    """Undo the newest change that is not undone yet."""
    return _travel(part_id, seen, user, "undo")


def step_forward(part_id: UUID, seen: int, user: Any) -> Change:
    """Redo what was undone last."""
    return _travel(part_id, seen, user, "redo")


def settle(part_id: UUID, version: int, sketches: dict[str, list[Any]]) -> bool:
    """Write down where sketches went because the part they lie on changed: a consequence of the last change, so it
    becomes part of that, and undoing takes both back. Nothing happens if the part has gone on meanwhile."""
    with transaction.atomic():
        part = PartRecord.objects.select_for_update().get(pk=part_id)
        if part.version != version:
            return False
        before = part.document
        steps = [
            {**s, "sketch": {**s["sketch"], "entities": sketches[s["id"]]}} if s["id"] in sketches else s
            for s in before["steps"]
        ]
        after = read(part_id, {**before, "steps": steps}).data
        entry = part.log.filter(version=version).first()
        if entry is not None:
            start = jsonpatch.apply_patch(before, entry.backward)
            entry.forward, entry.backward = difference(start, after), difference(after, start)
            entry.document = after if entry.document else None
            entry.save(update_fields=["forward", "backward", "document"])
        part.document = after
        part.settled += 1
        part.save(update_fields=["document", "settled"])
        tell(str(part_id), {"kind": "settled", "version": version})
    return True


def _travel(part_id: UUID, seen: int, user: Any, kind: str) -> Change:
    with transaction.atomic():
        part = locked(part_id, seen)
        target = _tops(part)[0 if kind == "undo" else 1]
        if target is None:
            raise Refusal(f"There is nothing to {kind}.")
        before = opened(part)
        entry = part.log.get(version=target)
        patch = entry.backward if kind == "undo" else entry.forward
        after = read(part_id, _never_again(jsonpatch.apply_patch(part.document, patch), part.document))
        tops = _tops_after(part, kind, target)
        _store(part, before, after, user, kind=kind, command=entry.command, target=target, **tops)
    return Change(part, before, Outcome(after.document))
