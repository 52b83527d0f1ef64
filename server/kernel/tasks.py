"""The jobs. They hold no kernel themselves: they load, ask a kernel process, store and tell."""

import hashlib
import logging
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any, Literal

from axes.models import AccessFailureLog
from django.db import InterfaceError, OperationalError, close_old_connections, transaction
from django.utils import timezone
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import JobAborted

from live.events import tell
from parts.models import PartRecord, StoredFile
from sulvak_core.part.document import sheets_in
from sulvak_core.rebuild.version import FILE, HAS, KERNEL_VERSION
from sulvak_core.steps.registry import load
from sulvak_server import room
from sulvak_server.logs import doing, now

from .models import Artifact, BuildRecord, PreviewTurn, build_card
from .pool import Abandoned, KernelFailure, Pool
from .queue import export_key
from .retention import forget_files, forget_old

log = logging.getLogger("sulvak.kernel")
# a job in whose middle the database went away is taken up again when it is back
_AGAIN = RetryStrategy(max_attempts=20, wait=2, retry_exceptions={OperationalError, InterfaceError})
READING = 30.0  # seconds for a drawing or a sheet's page; a process that takes longer is ended, and the next file read
_pool: Pool | None = None


def pool() -> Pool:
    global _pool
    if _pool is None:
        _pool = Pool()
    return _pool


def _getter(part: str) -> Any:
    """What a kernel process may ask for while it works on a part: kept results, and files of the part's workspace."""

    def get(key: str) -> bytes | None:
        if key.startswith(HAS):
            mine = StoredFile.objects.filter(workspace__parts=part, sha256=key.removeprefix(HAS))
            return b"yes" if mine.exists() else None
        if key.startswith(FILE):
            digest = key.removeprefix(FILE)
            stored = StoredFile.objects.filter(workspace__parts=part, sha256=digest).only("data").first()
            return bytes(stored.data) if stored else None
        row = Artifact.objects.filter(key="k" + key).only("data").first()
        return bytes(row.data) if row else None

    return get


def put_kept(key: str, data: bytes) -> None:
    """Keep the result of a step; not where the disk is getting full, since it can be made again."""
    if room.short(room.CACHES):
        return
    Artifact.objects.get_or_create(key="k" + key, defaults={"kind": "solids", "data": data})


def _call(part: str, request: dict[str, Any], **told: Any) -> Any:
    with doing(f"{request['do']} of part {part}"):
        try:
            return pool().call(part, {**request, "doing": now()}, get=_getter(part), put=put_kept, **told)
        except Abandoned:
            raise JobAborted from None


@app.task(name="kernel.build", retry=_AGAIN)
def build(part: str) -> None:
    """Build the newest version of a part and tell whoever looks at it."""
    close_old_connections()
    record = PartRecord.objects.filter(pk=part).first()
    if record is None:
        return
    known = BuildRecord.objects.filter(part=record).only("version", "kernel").first()
    if known and known.is_of(record.version):
        return
    version = record.version

    def progress(i: int, n: int) -> None:
        if n > 5:
            tell(part, {"kind": "building", "version": version, "done": i, "of": n})

    def soon(made: dict[str, Any]) -> None:
        """The new shape and its figures; what is proven comes later, and until then this is no finished build."""
        figures = {k: v for k, v in made["figures"].items() if k != "sketches"} | {"pending": True}
        bodies = [_keep_picture(record, *picture) for picture in made["bodies"]]
        if _land(record, version, figures=figures, bodies=bodies, kernel=""):
            tell(part, {"kind": "built", "version": version})

    try:
        request = {"do": "build", "document": record.document, "outline": True}
        made = _call(part, request, progress=progress, soon=soon)
    except KernelFailure as failure:
        _unbuilt(record, version, failure.sentence)
        tell(part, {"kind": "built", "version": version})
        return
    moved = made["figures"].pop("sketches")
    with transaction.atomic():
        bodies = [_keep_picture(record, *picture) for picture in made["bodies"]]
        _land(record, version, figures=made["figures"], bodies=bodies, outline=made["outline"], kernel=KERNEL_VERSION)
    if moved:
        from parts.service import settle

        settle(record.pk, version, moved)
    tell(part, {"kind": "built", "version": version})


def _land(record: PartRecord, version: int, **fields: Any) -> bool:
    """Store a build, unless a newer one has been stored meanwhile."""
    with transaction.atomic():
        if PartRecord.objects.select_for_update().only("pk").filter(pk=record.pk).first() is None:
            return False
        known = BuildRecord.objects.filter(part=record).only("version").first()
        if known is not None and known.version > version:
            return False
        card = build_card(fields["figures"])
        BuildRecord.objects.update_or_create(part=record, defaults={"version": version, "card": card, **fields})
    return True


def _unbuilt(record: PartRecord, version: int, sentence: str) -> None:
    """The kernel broke down: the pictures stay, the figures say what happened."""
    old = BuildRecord.objects.filter(part=record).first()
    figures = dict(old.figures) if old else {"steps": [], "mass": None, "callouts": [], "failed": []}
    figures["broken"] = sentence
    _land(record, version, kernel=KERNEL_VERSION, figures=figures, bodies=old.bodies if old else [])


def _now_and_then(ask: Callable[[], bool], seconds: float = 1.0) -> Callable[[], bool]:
    """A question to the database that is put at most once in so many seconds; once true it stays so."""
    answer, asked = False, time.monotonic()

    def now() -> bool:
        nonlocal answer, asked
        if not answer and time.monotonic() - asked >= seconds:
            answer, asked = ask(), time.monotonic()
        return answer

    return now


# what a step tells to be drawn
SHOWN = {"sides", "axis", "point", "pull", "locked", "caution", "turns", "grid", "grips"}


@app.task(name="kernel.preview", retry=_AGAIN)
def preview(part: str, window: str, turn: int, command: dict[str, Any]) -> None:
    """Try a command on the newest version without storing it; skipped if a newer preview was asked for."""
    close_old_connections()
    newest = PreviewTurn.objects.filter(part_id=part, window=window).values_list("turn", flat=True).first()
    if newest is not None and newest > turn:
        return
    record = PartRecord.objects.filter(pk=part).first()
    if record is None:
        return
    told: dict[str, Any] = {"kind": "preview", "window": window, "turn": turn}
    try:
        newer = PreviewTurn.objects.filter(part_id=part, window=window, turn__gt=turn)
        superseded = _now_and_then(lambda: newer.all().exists())
        made = _call(part, {"do": "preview", "document": record.document, "command": command}, stopped=superseded)
        keys: dict[str, list[str]] = {}
        for side, pieces in made["difference"].items():
            for key, data, _volume in pieces[:40]:
                keys.setdefault(side, []).append(_keep_mesh(record, key, data))
        tried = command.get("step")
        tried = tried.get("id") if isinstance(tried, dict) else tried
        steps = [
            {k: s[k] for k in ("id", "state", "said", "offers", "volume_change", "mass_change", "frame")}
            | {"extra": {k: v for k, v in s["extra"].items() if k in SHOWN}}
            for s in made["figures"]["steps"]
            if s["id"] == tried  # a notice holds no more than some 8000 bytes
        ]
        mass = made["figures"]["mass"]
        told |= {"steps": steps, "mass": mass["mass"], "volume": mass["volume"], **keys}
    except KernelFailure as failure:
        told["sentence"] = failure.sentence
    tell(part, told)


@app.task(name="kernel.export", retry=_AGAIN, pass_context=True)
def export(context: JobContext, part: str, version: int, form: str, key: str, deviation: float | None = None) -> None:
    """Write a file of the part's present version and keep it under ``key``; ``deviation`` in mm, of triangles."""
    close_old_connections()
    if Artifact.objects.filter(key=key).exists():
        return
    record = PartRecord.objects.filter(pk=part).first()
    if record is None:
        return
    if record.version != version and export_key(record, form, deviation) != key:
        _superseded(key)
        return
    load(record.document)
    try:
        data, told = _call(
            part,
            {"do": "export", "form": form, "deviation": deviation, "document": record.document},
            stopped=context.should_abort,
        )
        Artifact.objects.get_or_create(key=key, defaults={"kind": form, "data": data, "head": told})
    except KernelFailure as failure:
        Artifact.objects.get_or_create(key=key, defaults={"kind": "failure", "head": failure.sentence, "data": b""})


@app.task(name="kernel.answer", retry=_AGAIN, pass_context=True)
def answer(context: JobContext, part: str, version: int, question: dict[str, Any], key: str) -> None:
    """Have a question about a part answered by a kernel process, and keep the JSON of the answer under ``key``; the
    meshes it speaks of are kept under keys of their own."""
    close_old_connections()
    record = PartRecord.objects.filter(pk=part).first()
    if record is None or Artifact.objects.filter(key=key).exists():
        return
    if record.version != version:
        _superseded(key)
        return

    def progress(i: int, n: int) -> None:
        tell(part, {"kind": "asked", "what": question["do"], "done": i, "of": n})

    try:
        made = _call(
            part,
            {"document": record.document, **question, **_other(record, question)},
            stopped=context.should_abort,
            progress=progress,
        )
        text, meshes = made if isinstance(made, tuple) else (made, [])
        for mesh_key, mesh in meshes:
            text = text.replace(mesh_key, _keep_mesh(record, mesh_key, mesh, "answer-mesh"))
        fields = {"kind": "answer", "data": text.encode()}
    except KernelFailure as failure:
        fields = {"kind": "failure", "head": failure.sentence, "data": b""}
    Artifact.objects.get_or_create(key=key, defaults=fields)


def _superseded(key: str) -> None:
    """Who waits for an answer about a version gone by is told at once."""
    said = {"kind": "superseded", "head": "The part was changed meanwhile; ask again.", "data": b""}
    Artifact.objects.get_or_create(key=key, defaults=said)


def _other(record: PartRecord, question: dict[str, Any]) -> dict[str, Any]:
    """What a part is to be held against: its own document at a ``version``, that of another part, or its sheet."""
    if question["do"] == "sheet_lines":
        return _page(record, question["page"])
    if question["do"] in ("report", "pack"):
        sheets = [_file(record, s["sha256"]) for s in sheets_in(record.document)]
        return {"sheets": [(f["data"], f["media_type"]) for f in sheets]}
    if question["do"] != "compare":
        return {}
    if "revisions" in question:
        from releases.models import Revision

        old, new = (Revision.objects.get(part=record, letter=letter).document for letter in question["revisions"])
        return {"document": new, "other": old, "whole": True}
    if "version" in question:
        from parts.service import document_at

        return {"other": document_at(record, question["version"])}
    other = PartRecord.objects.filter(pk=question["part"], workspace=record.workspace_id).first()
    if other is None:
        raise KernelFailure("The other part is no longer there.")
    return {"other": other.document}


def _page(record: PartRecord, page: int) -> dict[str, Any]:
    """The file that a page of a part's sheets is in, and which of its own pages that is."""
    for sheet in sheets_in(record.document):
        if page < len(sheet["pages"]):
            return {**_file(record, sheet["sha256"]), "own": page}
        page -= len(sheet["pages"])
    raise KernelFailure("This part has no such page; put its sheet beside it first.")


def _file(record: PartRecord, digest: str) -> dict[str, Any]:
    from parts.models import StoredFile

    stored = StoredFile.objects.filter(workspace_id=record.workspace_id, sha256=digest).first()
    if stored is None:
        raise KernelFailure("This part has no sheet; put one beside it first.")
    return {"data": bytes(stored.data), "media_type": stored.media_type}


@app.task(name="kernel.state", retry=_AGAIN, pass_context=True)
def state(context: JobContext, part: str, version: int, step: str, side: str, key: str) -> None:
    """Make pictures of the bodies as a step finds or leaves them, and keep their keys under ``key``."""
    close_old_connections()
    record = PartRecord.objects.filter(pk=part).first()
    if record is None or Artifact.objects.filter(key=key).exists():
        return
    if record.version != version:
        _superseded(key)
        return
    try:
        made = _call(part, {"do": "state", "document": record.document, "step": step, "side": side})
        keys = [_keep_picture(record, *picture) for picture in made]
        fields = {"kind": "state", "head": keys, "data": b""}
    except KernelFailure as failure:
        fields = {"kind": "failure", "head": failure.sentence, "data": b""}
    Artifact.objects.get_or_create(key=key, defaults=fields)


def _own(record: PartRecord, key: str) -> str:
    """The key of something shown, in its workspace: what is kept for one is not found by another."""
    return key[0] + hashlib.sha256(f"{record.workspace_id} {key}".encode()).hexdigest()


def _keep_picture(record: PartRecord, key: str, head: dict[str, Any], mesh: bytes) -> str:
    own, kept = _own(record, key), {"kind": "mesh", "head": head, "data": mesh, "workspace_id": record.workspace_id}
    Artifact.objects.get_or_create(key=own, defaults=kept)
    return own


def _keep_mesh(record: PartRecord, key: str, data: bytes, kind: Literal["preview", "answer-mesh"] = "preview") -> str:
    """Keep a mesh for as long as what speaks of it; one that is there already is as new again."""
    own, kept = _own(record, key), {"kind": kind, "data": data, "workspace_id": record.workspace_id}
    _, fresh = Artifact.objects.get_or_create(key=own, defaults=kept)
    if not fresh:
        longer = {"kind": kind} if kind == "answer-mesh" else {}
        Artifact.objects.filter(key=own, kind__in=("preview", "answer-mesh")).update(made=timezone.now(), **longer)
    return own


@app.task(name="kernel.pages", retry=_AGAIN, pass_context=True)
def pages(context: JobContext, file: int, key: str, asked: dict[str, Any]) -> None:
    """Read a sheet in a process with limits: the sizes of a PDF's pages, a page as a picture, or what stands on it."""
    from parts.models import StoredFile

    close_old_connections()
    stored = StoredFile.objects.get(pk=file)
    request = {**asked, "data": bytes(stored.data), "media_type": stored.media_type}
    try:
        made = _call(f"file:{file}", request, seconds=READING, stopped=context.should_abort)
        head, data = made if isinstance(made, tuple) else (None, made) if isinstance(made, bytes) else (made, b"")
        fields = {"kind": "page" if data else "pages", "head": head, "data": data}
    except KernelFailure as failure:
        fields = {"kind": "failure", "head": failure.sentence, "data": b""}
    Artifact.objects.get_or_create(key=key, defaults=fields)


@app.task(name="kernel.drawing", retry=_AGAIN, pass_context=True)
def drawing(context: JobContext, file: int, key: str) -> None:
    """Read a drawing from outside in a process with limits and keep what is in it as JSON."""
    from parts.models import StoredFile

    close_old_connections()
    stored = StoredFile.objects.get(pk=file)
    try:
        made = _call(
            f"file:{file}", {"do": "drawing", "data": bytes(stored.data)}, seconds=READING, stopped=context.should_abort
        )
        fields = {"kind": "drawing", "data": made.encode()}
    except KernelFailure as failure:
        fields = {"kind": "failure", "head": failure.sentence, "data": b""}
    Artifact.objects.get_or_create(key=key, defaults=fields)


@app.periodic(cron="17 * * * *")
@app.task(name="kernel.tidy", queueing_lock="kernel.tidy")
def tidy(timestamp: int) -> None:
    """Every hour: forget kept results that are easily made again, and who mistyped a password yesterday."""
    close_old_connections()
    AccessFailureLog.objects.filter(attempt_time__lt=timezone.now() - timedelta(days=1)).delete()
    log.info("%d kept results forgotten", forget_old())


@app.periodic(cron="37 3 * * *")
@app.task(name="kernel.tidy_files", queueing_lock="kernel.tidy_files")
def tidy_files(timestamp: int) -> None:
    """Every night: forget files that no part speaks of any more."""
    close_old_connections()
    log.info("%d files forgotten", forget_files())
