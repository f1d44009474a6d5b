"""The database itself refuses to change or delete what was read, marked or signed."""

from django.db import migrations

TABLES = ("jobs_reading", "jobs_pattern", "jobs_signoff")


def triggers(tables: tuple[str, ...] = TABLES) -> list[migrations.RunSQL]:
    """One trigger per table and verb; strict enough that raw SQL meets it too."""
    made = []
    for table in tables:
        for verb, words in (("UPDATE", "changed"), ("DELETE", "deleted")):
            name = f"{table}_no_{verb.lower()}"
            made.append(
                migrations.RunSQL(
                    sql=f"CREATE TRIGGER {name} BEFORE {verb} ON {table} FOR EACH ROW "
                    f"SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = "
                    f"'{table} is append-only: rows are never {words}; strike with a new row'",
                    reverse_sql=f"DROP TRIGGER {name}",
                )
            )
    return made


class Migration(migrations.Migration):
    """Triggers on the append-only tables."""

    dependencies = [("jobs", "0002_initial")]
    operations = triggers()
