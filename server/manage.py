#!/usr/bin/env python3
"""Django's command line for Sulvak's server."""

import os
import sys
from pathlib import Path

if __name__ == "__main__":
    sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "core"))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "sulvak_server.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
