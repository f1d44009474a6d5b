"""A version of a sheet is never changed."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on the versions of sheets."""

    dependencies = [("specs", "0006_versions"), ("jobs", "0003_append_only")]
    operations = _triggers(("specs_sheetversion",))
