"""``manage.py load_demo``: the demo workshop, its people and its parts; does nothing where they are."""

import hashlib
import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction

from parts.library import create
from parts.models import PartRecord, StoredFile
from sulvak_core.exchange import part_file
from workspaces.models import Membership, Workspace

DEMO = Path(settings.ROOT) / "demo"
PEOPLE = {"wren": "owner", "tern": "editor", "rook": "viewer"}
PASSWORD = "kite-and-ballast"


class Command(BaseCommand):
    help = "Load the demo workshop."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        workspace, _ = Workspace.objects.get_or_create(name="Fenmarsh Kite Survey")
        for name, role in PEOPLE.items():
            user, fresh = User.objects.get_or_create(username=name)
            if fresh:
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
