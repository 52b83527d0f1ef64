"""Releases over HTTP: what must hold, released revisions and their packs, the shop's inbox."""

import base64
import hashlib
import io
import json
import zipfile
from datetime import UTC, datetime
from typing import Any, Literal
from uuid import UUID

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from kernel.artifacts import wait_for
from kernel.queue import ask
from parts.answers import BodyOut
from parts.models import PartRecord
from parts.service import carry_out, locked
from parts.view import attachment
from sulvak_core.part.errors import Refusal
from sulvak_core.release.letters import is_letter, next_letter
from workspaces.access import NotThere, part_for

from .compare import compared
from .models import Revision, ShopAnswer
from .tasks import carry

router = Router()
SECONDS = 240.0
LATE = "The part is still being looked over; ask again in a moment."


class ConditionOut(Schema):
    """A line that must hold before a release: ``what`` it asks for, ``said`` how it stands; ``page`` and ``at`` (a
    step, a tab) lead to where it can be mended."""

    key: str
    what: str
    holds: bool
    said: str
    page: Literal["board", "inspection", "drawing", "data"]
    at: str


class PackFileOut(Schema):
    path: str
    sha256: str
    bytes: int
    media_type: str
    what: str


class ShopOut(Schema):
    """How a revision fares at the shop's inbox, which is simulated. “unreachable”: it is tried again by itself."""

    state: Literal["waiting", "unreachable", "looking", "accepted", "rejected"]
    said: list[str]
    tries: int
    changed: datetime


class ReleasedLine(Schema):
    key: str
    what: str
    holds: bool
    said: str
    reason: str


class RevisionOut(Schema):
    """A released revision. ``conditions``: how each line stood, with the reason where it did not hold."""

    letter: str
    version: int
    by: str
    at: datetime
    sha256: str
    bytes: int
    mass: float | None
    volume: float
    conditions: list[ReleasedLine]
    files: list[PackFileOut]
    shop: ShopOut | None


class ReleaseOut(Schema):
    """The part as it is, looked over; ``letter``: what it would be released as. Its revisions, the newest first."""

    version: int
    name: str
    number: str
    letter: str
    unit: Literal["mm", "in"]
    role: str
    revisions: list[RevisionOut]


class LookedOut(Schema):
    version: int
    conditions: list[ConditionOut]


class ReleaseIn(Schema):
    """``reasons``: for each line that does not hold, by its key, why it is released all the same."""

    version: int
    reasons: dict[str, str] = Field(default_factory=dict, max_length=40)


class RevisionComparedOut(Schema):
    """What is another in one revision than in another: sizes and callouts (before, after; empty where there is none),
    figures, files (the same, another, added, gone). ``versions``: of the part, to be compared on the board."""

    versions: tuple[int, int]
    sizes: list[dict[str, str]]
    callouts: list[dict[str, str]]
    figures: list[dict[str, float | str | None]]
    files: list[dict[str, str]]


class RevisionShapesOut(Schema):
    """The newer revision's ``bodies``; ``added`` and ``removed`` name meshes of what came and went, with ``volumes`` in
    mm³."""

    bodies: list[BodyOut]
    added: list[str]
    removed: list[str]
    volumes: dict[str, float]


def _letter(part: PartRecord) -> str:
    """What the part would be released as."""
    last = part.revisions.order_by("-version", "-id").first()
    own = str(part.document["revision"])
    if last is None:
        return own if is_letter(own) else "A"
    used = set(part.revisions.values_list("letter", flat=True))
    letter = own if is_letter(own) and own not in used else next_letter(last.letter)
    while letter in used:
        letter = next_letter(letter)
    return letter


def _told(r: Revision) -> dict[str, Any]:
    shop = ShopAnswer.objects.filter(revision=r).first()
    figures = r.manifest["figures"]
    return {
        "letter": r.letter,
        "version": r.version,
        "by": r.by,
        "at": r.at,
        "sha256": r.sha256,
        "bytes": len(r.pack),
        "mass": figures["mass"],
        "volume": figures["volume"],
        "conditions": r.manifest["conditions"],
        "files": r.manifest["files"],
        "shop": {k: getattr(shop, k) for k in ("state", "said", "tries", "changed")} if shop else None,
    }


@router.get("/parts/{part_id}/release", response=ReleaseOut)
def get_release(request: HttpRequest, part_id: UUID) -> Any:
    """The part's revisions, and what it would be released as next."""
    part, role = part_for(request.user, part_id)
    return {
        "version": part.version,
        "name": part.document["name"],
        "number": part.document["number"],
        "letter": _letter(part),
        "unit": part.document["unit"],
        "role": role,
        "revisions": [_told(r) for r in part.revisions.all()],
    }


@router.get("/parts/{part_id}/release/conditions", response=LookedOut)
def get_conditions(request: HttpRequest, part_id: UUID) -> Any:
    """The part as it is, looked over: every line that must hold before it is released."""
    part, _ = part_for(request.user, part_id)
    key = ask(part.pk, part.version, {"do": "look_over", "owner": part.workspace.name, "letter": _letter(part)})
    found = json.loads(bytes(wait_for(key, SECONDS, LATE).data))
    return {"version": part.version, "conditions": found}


@router.post("/parts/{part_id}/release", response=RevisionOut)
def release(request: HttpRequest, part_id: UUID, data: ReleaseIn) -> Any:
    """Release the part as it is. It goes on as the next revision; this one never changes."""
    part, _ = part_for(request.user, part_id, "editor")
    letter = _letter(part)
    by = request.user.get_username()
    at = datetime.now(UTC).replace(microsecond=0)
    reasons = {k[:60]: v.strip()[:1000] for k, v in data.reasons.items() if v.strip()}
    meta = {"revision": letter, "by": by, "at": at.strftime("%Y-%m-%dT%H:%M:%SZ"), "owner": part.workspace.name}
    locked(part_id, data.version, hold=False)  # told before the work begins, and again when it is done
    key = ask(part.pk, data.version, {"do": "pack", "release": {**meta, "reasons": reasons}})
    pack = base64.b64decode(json.loads(bytes(wait_for(key, SECONDS, LATE).data)))
    with zipfile.ZipFile(io.BytesIO(pack)) as z:
        manifest = json.loads(z.read("manifest.json"))
        document = json.loads(z.read("part.sulvak.json"))
    try:
        with transaction.atomic():
            locked(part_id, data.version)
            made = Revision(
                part=part, letter=letter, version=data.version, by=by, at=at, document=document, manifest=manifest,
                sha256=hashlib.sha256(pack).hexdigest(), pack=pack,
            )  # fmt: skip
            made.save()
            carry_out(
                part_id, data.version, {"do": "set_part", "changes": {"revision": next_letter(letter)}}, request.user
            )
    except IntegrityError:
        raise Refusal(f"Revision {letter} was released meanwhile; load this page again.") from None
    return _told(made)


def _revision(request: HttpRequest, part_id: UUID, letter: str, needed: str = "viewer") -> Revision:
    part, _ = part_for(request.user, part_id, needed)
    found = part.revisions.filter(letter=letter).first()
    if found is None:
        raise NotThere()
    return found


@router.get("/parts/{part_id}/revisions/{letter}/pack")
def get_pack(request: HttpRequest, part_id: UUID, letter: str) -> HttpResponse:
    """A revision's release pack, byte for byte as it was released."""
    r = _revision(request, part_id, letter)
    name = f"{r.document['number'] or r.document['name']} rev {letter}"
    return attachment(bytes(r.pack), "application/zip", name, "zip")


@router.get("/parts/{part_id}/revisions/{letter}/files/{path}")
def get_pack_file(request: HttpRequest, part_id: UUID, letter: str, path: str) -> HttpResponse:
    """One file out of a revision's pack."""
    r = _revision(request, part_id, letter)
    kinds = {f["path"]: f["media_type"] for f in r.manifest["files"]} | {"manifest.json": "application/json"}
    if path not in kinds:
        raise NotThere()
    with zipfile.ZipFile(io.BytesIO(bytes(r.pack))) as z:
        data = z.read(path)
    stem, _, ending = path.partition(".")
    return attachment(data, kinds[path], f"{r.document['number'] or r.document['name']} rev {letter} {stem}", ending)


@router.get("/parts/{part_id}/revisions/{letter}/compare/{other}", response=RevisionComparedOut)
def compare_revisions(request: HttpRequest, part_id: UUID, letter: str, other: str) -> Any:
    """What is another in revision ``other`` than in revision ``letter``."""
    return compared(_revision(request, part_id, letter), _revision(request, part_id, other))


@router.get("/parts/{part_id}/revisions/{letter}/shapes/{other}", response=RevisionShapesOut)
def compare_shapes(request: HttpRequest, part_id: UUID, letter: str, other: str) -> Any:
    """Revision ``other`` as a shape, and what came and went since revision ``letter``."""
    one, two = _revision(request, part_id, letter), _revision(request, part_id, other)
    question = {"do": "compare", "revisions": [one.letter, two.letter]}
    key = ask(one.part_id, one.part.version, question)
    return json.loads(bytes(wait_for(key, SECONDS, LATE).data))


@router.post("/parts/{part_id}/revisions/{letter}/shop", response=ShopOut)
def to_the_shop(request: HttpRequest, part_id: UUID, letter: str) -> Any:
    """Send a revision's pack to the shop's inbox, which is simulated; asked again, it says how that stands."""
    r = _revision(request, part_id, letter, "editor")
    with transaction.atomic():
        answer, fresh = ShopAnswer.objects.get_or_create(revision=r, defaults={"by": request.user.get_username()})
        if fresh:
            carry(answer)
    return answer
