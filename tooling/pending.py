"""Exits with 1 where tables are behind the program, so that they are backed up before they are changed."""

from __future__ import annotations

import sys

import django
from django.db import connection
from django.db.migrations.executor import MigrationExecutor


def main() -> int:
    """Say by the exit code whether migrations wait."""
    django.setup()
    executor = MigrationExecutor(connection)
    return int(bool(executor.migration_plan(executor.loader.graph.leaf_nodes())))


if __name__ == "__main__":
    sys.exit(main())
