"""Marks, register, findings, torques and photos are append-only too."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on the tables of the guided work."""

    dependencies = [("jobs", "0005_work")]
    operations = _triggers(
        ("jobs_stepmark", "jobs_registerline", "jobs_finding", "jobs_tightening", "jobs_photo")
    )
