"""The database itself keeps what sheets said before."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on the history tables."""

    dependencies = [("specs", "0004_torque_figure"), ("jobs", "0003_append_only")]
    operations = _triggers(("specs_historicalspecsheet", "specs_historicalspecvalue"))
