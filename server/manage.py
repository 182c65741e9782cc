#!/usr/bin/env python
"""Django's command line for Percorso."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "percorso_server.config.settings")
    execute_from_command_line(sys.argv)
