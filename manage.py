#!/usr/bin/env python3
"""Django's commands, with the production settings unless told otherwise."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "shop.config.settings.production")
    execute_from_command_line(sys.argv)
