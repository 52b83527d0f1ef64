"""How long kept results stay. All of them can be made again from the parts; a picture on a card must not vanish."""

from datetime import timedelta

from django.db import connection
from django.utils import timezone

from .models import Artifact

LASTS = {
    "preview": timedelta(hours=1),
    "failure": timedelta(minutes=10),
    "state": timedelta(hours=1),
    "answer": timedelta(days=2),
    "drawing": timedelta(days=1),
    "step": timedelta(days=1),
    "stl": timedelta(days=1),
    "solids": timedelta(days=14),
    "page": timedelta(days=90),
    "pages": timedelta(days=90),
}
MESHES_LAST = timedelta(days=2)


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
        return gone + cursor.rowcount
