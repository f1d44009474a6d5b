"""The database itself keeps every movement of shims, and the history tables."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers


class Migration(migrations.Migration):
    """Triggers on the tables of history."""

    dependencies = [("stock", "0004_tray"), ("jobs", "0003_append_only")]
    operations = _triggers(("stock_stockmovement", "stock_historicalshimlot", "stock_historicalkit"))
