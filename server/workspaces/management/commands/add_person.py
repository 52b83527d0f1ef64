"""``manage.py add_person NAME --workspace W --role owner``: somebody who may sign in, and where they may do what."""

import getpass
import sys
from typing import Any

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from workspaces.access import RANK
from workspaces.models import Membership, Workspace


class Command(BaseCommand):
    help = "Add a person to a workspace (made if there is none of that name), or change their role."
    requires_system_checks: list[str] = []  # which would load the whole API

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="what they sign in with")
        parser.add_argument("--workspace", required=True, help="name of the workspace")
        parser.add_argument("--role", choices=sorted(RANK), default="editor")

    def handle(self, *args: Any, **options: Any) -> None:
        name = options["name"].strip()
        try:
            User.username_validator(name)
        except ValidationError:
            raise CommandError("A name has letters, digits and @ . + - _ only.") from None
        known = User.objects.filter(username=name).first()
        password = None if known and known.has_usable_password() else self._password(name)
        with transaction.atomic():
            user = known or User(username=name)
            if password is not None:
                user.set_password(password)
            user.save()
            workspace, made = Workspace.objects.get_or_create(name=options["workspace"].strip())
            role = {"role": options["role"]}
            Membership.objects.update_or_create(workspace=workspace, user=user, defaults=role)
        what = "a new workspace" if made else "the workspace"
        self.stdout.write(f"{name} is {options['role']} of {what} “{workspace.name}”.")

    @staticmethod
    def _password(name: str) -> str:
        """Asked for twice without showing it; from a pipe, its first line."""
        if not sys.stdin.isatty():
            password = sys.stdin.readline().rstrip("\r\n")
        else:
            password = getpass.getpass(f"Password of {name}: ")
            if getpass.getpass("Once more: ") != password:
                raise CommandError("The two do not match; try again.")
        try:
            validate_password(password, User(username=name))
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        return password
