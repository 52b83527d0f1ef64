"""``manage.py load_demo``: the demo workshop, its people and its parts; does nothing where they are.

With ``--close`` the demo's people, whose password everybody knows, cannot sign in any more; loading it again opens it.
With ``--migrate`` the database is brought up to date first: in one process, since starting one is what takes long.
"""

import hashlib
import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from parts.models import PartRecord, StoredFile
from sulvak_core.exchange import part_file
from workspaces.models import Membership, Workspace

DEMO = Path(settings.ROOT) / "demo"
PEOPLE = {"wren": "owner", "tern": "editor", "rook": "viewer"}
PASSWORD = "kite-and-ballast"


class Command(BaseCommand):
    help = "Load the demo workshop."
    requires_system_checks: list[str] = []  # which would load the whole API

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--close", action="store_true", help="let nobody in with the demo's password")
        parser.add_argument("--migrate", action="store_true", help="bring the database up to date first")

    def _close(self) -> None:
        for user in User.objects.filter(username__in=PEOPLE):
            if user.check_password(PASSWORD):  # somebody who has taken another password stays
                user.set_unusable_password()  # which ends their sessions too
                user.save()

    def handle(self, *args: Any, **options: Any) -> None:
        if options["migrate"]:
            call_command("migrate", verbosity=0, skip_checks=True)
        with transaction.atomic():
            (self._close if options["close"] else self._load)()

    def _load(self) -> None:
        from parts.routers.library import create  # the whole API, which takes its time to load

        workspace, _ = Workspace.objects.get_or_create(name="Fenmarsh Kite Survey")
        for name, role in PEOPLE.items():
            user, fresh = User.objects.get_or_create(username=name)
            if fresh or not user.has_usable_password():
                user.set_password(PASSWORD)
                user.save()
            Membership.objects.get_or_create(workspace=workspace, user=user, defaults={"role": role})
        there = set(PartRecord.objects.filter(workspace=workspace).values_list("document__number", flat=True))
        for entry in json.loads((DEMO / "parts.json").read_text()):
            document = part_file.read((DEMO / entry["part"]).read_bytes())
            data = (DEMO / entry["sheet"]).read_bytes()
            digest = hashlib.sha256(data).hexdigest()
            StoredFile.objects.get_or_create(
                workspace=workspace, sha256=digest, defaults={"media_type": "image/svg+xml", "data": data}
            )
            if document.number not in there:
                create(workspace.pk, document)
