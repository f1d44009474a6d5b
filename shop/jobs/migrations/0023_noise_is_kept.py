"""What was told of a noise is written once."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on its table."""

    dependencies = [("jobs", "0022_noise")]
    operations = _triggers(("jobs_noiseline",))
