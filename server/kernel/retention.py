"""How long things stay that nobody asked to keep: results that can be made again from the parts, sessions, and files
that no part has spoken of for long. A picture on a card must not vanish."""

from datetime import timedelta

from django.contrib.sessions.models import Session
from django.db import connection
from django.utils import timezone

from .models import Artifact, PreviewTurn

LASTS = {
    "preview": timedelta(hours=1),
    "failure": timedelta(minutes=10),
    "superseded": timedelta(minutes=10),
    "state": timedelta(hours=1),
    "answer": timedelta(days=2),
    "answer-mesh": timedelta(days=3),  # what answers speak of stays longer than they
    "drawing": timedelta(days=1),
    "step": timedelta(days=1),
    "stl": timedelta(days=1),
    "solids": timedelta(days=14),
    "page": timedelta(days=90),
    "pages": timedelta(days=90),
}
MESHES_LAST = timedelta(days=2)
TURNS_LAST = timedelta(days=1)  # of windows' previews
FILES_LAST = timedelta(days=30)  # that no part speaks of, nor any change that could be undone


def forget_old() -> int:
    """Delete what is past its time, and meshes that no build shows any more. Returns how many."""
    now = timezone.now()
    gone = 0
    for kind, time in LASTS.items():
        gone += Artifact.objects.filter(kind=kind, made__lt=now - time).delete()[0]
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM kernel_artifact a WHERE a.kind = 'mesh' AND a.made < %s AND NOT EXISTS "
            "(SELECT 1 FROM kernel_buildrecord b WHERE b.bodies ? a.key)",
            [now - MESHES_LAST],
        )
        gone += cursor.rowcount
    gone += PreviewTurn.objects.filter(at__lt=now - TURNS_LAST).delete()[0]
    return gone + Session.objects.filter(expire_date__lt=now).delete()[0]


def forget_files() -> int:
    """Delete files that no part speaks of, nor any change that could be undone. Returns how many."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM parts_storedfile f WHERE f.stored < %s"
            " AND NOT EXISTS (SELECT 1 FROM parts_partrecord p WHERE p.workspace_id = f.workspace_id"
            "  AND strpos(p.document::text, f.sha256) > 0)"
            " AND NOT EXISTS (SELECT 1 FROM parts_logentry l JOIN parts_partrecord p ON p.id = l.part_id"
            "  WHERE p.workspace_id = f.workspace_id"
            "  AND strpos(l.forward::text || l.backward::text, f.sha256) > 0)",
            [timezone.now() - FILES_LAST],
        )
        return cursor.rowcount
