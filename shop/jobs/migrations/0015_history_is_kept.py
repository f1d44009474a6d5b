"""The database itself keeps what is history: links, assemblies, moves, pieces, signed sheets, history tables."""

from importlib import import_module

from django.db import migrations

_triggers = import_module("shop.jobs.migrations.0003_append_only").triggers

WRITTEN_ONCE = (
    "jobs_chainlink",
    "jobs_fit",
    "jobs_historicaljob",
    "jobs_historicalmove",
)

# What a signed job was built to and for; it is opened again before it changes.
_OF_A_SIGNED_JOB = (
    "number",
    "title",
    "customer",
    "complaint",
    "arrived_on",
    "sheet",
    "new_bearings",
    "mark_typed",
    "mark_value",
    "mark_convention",
    "mark_confirmed",
    "scope",
    "choices",
    "fasteners",
    "came_from",
)
_OF_A_MOVE = (
    "job_id",
    "assembly_id",
    "title",
    "station",
    "swaps",
    "expected",
    "why",
    "taken_at",
    "taken_by_id",
    "by",
    "chance",
    "parts",
    "fit_id",
    "from_file",
)
_OF_AN_ASSEMBLY = ("job_id", "number", "started_at", "started_by_id", "by", "note")


def _same(columns):
    return " AND ".join(f"NEW.`{name}` <=> OLD.`{name}`" for name in columns)


def _trigger(name, when, table, condition, words):
    return migrations.RunSQL(
        sql=f"CREATE TRIGGER {name} BEFORE {when} ON {table} FOR EACH ROW BEGIN IF {condition} THEN "
        f"SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{table} is append-only: {words}'; END IF; END",
        reverse_sql=f"DROP TRIGGER {name}",
    )


class Migration(migrations.Migration):
    """Triggers on the tables of history that had none."""

    dependencies = [("jobs", "0014_chain_and_origin")]
    operations = [
        *_triggers(WRITTEN_ONCE),
        _trigger(
            "jobs_job_no_change_signed",
            "UPDATE",
            "jobs_job",
            f"OLD.state = 'signed' AND NEW.state = 'signed' AND NOT ({_same(_OF_A_SIGNED_JOB)})",
            "a signed job keeps its sheet; open it again first",
        ),
        _trigger(
            "jobs_job_no_delete", "DELETE", "jobs_job",
            "EXISTS (SELECT 1 FROM jobs_chainlink WHERE job_id = OLD.id)",
            "a job with a record is never deleted",
        ),
        _trigger(
            "jobs_move_no_update", "UPDATE", "jobs_move", f"NOT ({_same(_OF_A_MOVE)})",
            "only what came of a move is added",
        ),
        _trigger("jobs_move_no_delete", "DELETE", "jobs_move", "TRUE", "moves are never deleted"),
        _trigger(
            "jobs_assembly_no_update", "UPDATE", "jobs_assembly", f"NOT ({_same(_OF_AN_ASSEMBLY)})",
            "assemblies are never changed",
        ),
        _trigger(
            "jobs_assembly_no_delete", "DELETE", "jobs_assembly",
            "EXISTS (SELECT 1 FROM jobs_chainlink WHERE job_id = OLD.job_id)",
            "assemblies are never deleted",
        ),
        _trigger(
            "jobs_packpiece_no_update", "UPDATE", "jobs_packpiece", "TRUE", "pieces are never changed",
        ),
        _trigger(
            "jobs_packpiece_no_delete", "DELETE", "jobs_packpiece",
            "EXISTS (SELECT 1 FROM jobs_reading WHERE assembly_id = OLD.assembly_id) OR "
            "EXISTS (SELECT 1 FROM jobs_pattern WHERE assembly_id = OLD.assembly_id)",
            "what an assembly was read with is never taken out of it",
        ),
    ]
