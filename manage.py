#!/usr/bin/env python
"""Django's command-line entry: assess, simulate, demo, test."""

import os
import sys

if __name__ == "__main__":
    kind = sys.argv[1] if sys.argv[1:] and sys.argv[1] in ("demo", "test") else "production"
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", f"server.settings.{kind}")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
