"""What was offered, answered, paid and delivered is written once."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers

WRITTEN_ONCE = (
    "jobs_moneysheet",
    "jobs_customeranswer",
    "jobs_payment",
    "jobs_delivery",
    "jobs_historicalpartline",
    "jobs_historicalorder",
)


class Migration(migrations.Migration):
    """Triggers on the tables of the ledger."""

    dependencies = [("jobs", "0018_plan_and_ledger")]
    operations = _triggers(WRITTEN_ONCE)
