"""What was counted, chosen, answered, heard and read on the road is written once."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on both tables."""

    dependencies = [("jobs", "0020_ratio_and_road")]
    operations = _triggers(("jobs_ratioline", "jobs_roadline"))
