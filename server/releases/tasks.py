"""Jobs that carry packs to the shop's inbox: tried again for as long as it is down, a little later each time."""

from django.db import close_old_connections
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from .models import ShopAnswer
from .shop import Unreachable, ask, send

AGAIN = 1.0  # seconds until a pack that is looked at is asked for again
LONGEST = 60  # seconds between two tries
_RETRY = RetryStrategy(max_attempts=20, wait=2)


def carry(answer: ShopAnswer, seconds: float = 0.0) -> None:
    """Have a revision's pack carried to the shop, or its answer fetched."""
    app.configure_task("releases.carry", schedule_in={"seconds": seconds} if seconds else None).defer(answer=answer.pk)


@app.task(name="releases.carry", retry=_RETRY)
def carry_task(answer: int) -> None:
    """One step on the way: the pack handed in, or the answer to it fetched."""
    close_old_connections()
    row = ShopAnswer.objects.filter(pk=answer).select_related("revision").first()
    if row is None or row.state in ("accepted", "rejected"):
        return
    try:
        if not row.ident:
            row.ident = send(bytes(row.revision.pack))
            row.state, row.said, row.tries = "looking", [], 0
        else:
            found = ask(row.ident)
            if found is None:  # the inbox has lost it: it is handed in again
                row.ident, row.state, row.said = "", "waiting", ["The inbox had lost the pack; it is handed in again."]
            else:
                row.state, row.said, row.tries = found["state"], found["said"], 0
    except Unreachable as error:
        row.tries += 1
        row.state, row.said = "unreachable", [str(error)]
    row.save()
    if row.state == "unreachable":
        carry(row, min(2.0**row.tries, LONGEST))
    elif row.state in ("waiting", "looking"):
        carry(row, AGAIN)
