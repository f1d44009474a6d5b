"""The database itself keeps what the register said before."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on the history table."""

    dependencies = [("instruments", "0003_full_scale"), ("jobs", "0003_append_only")]
    operations = _triggers(("instruments_historicalinstrument",))
