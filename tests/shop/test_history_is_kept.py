"""What is history is kept by the database itself, also from the server's own database user."""

from __future__ import annotations

import MySQLdb
import pytest
from django.db import connection

# A statement that would rewrite history, each on a row that the demo has.
FORBIDDEN = [
    "UPDATE jobs_move SET title = 'another'",
    "UPDATE jobs_move SET chance = 0.99",
    "DELETE FROM jobs_move",
    "UPDATE jobs_packpiece SET thickness = thickness + 0.1",
    "DELETE FROM jobs_packpiece WHERE assembly_id IN (SELECT assembly_id FROM jobs_reading)",
    "UPDATE jobs_assembly SET `by` = 'somebody else'",
    "DELETE FROM jobs_assembly WHERE number = 1",
    "UPDATE jobs_chainlink SET digest = REPEAT('0', 64)",
    "DELETE FROM jobs_chainlink",
    "UPDATE stock_stockmovement SET reason = 'another'",
    "DELETE FROM stock_stockmovement",
    "UPDATE jobs_historicaljob SET title = 'another'",
    "DELETE FROM jobs_historicaljob",
    "DELETE FROM jobs_historicalmove",
    "UPDATE stock_historicalshimlot SET quantity = 0",
    "DELETE FROM stock_historicalkit",
    "UPDATE specs_historicalspecsheet SET name = 'another'",
    "DELETE FROM specs_historicalspecvalue",
    "UPDATE instruments_historicalinstrument SET name = 'another'",
    "UPDATE jobs_job SET sheet = '{}' WHERE state = 'signed'",
    "UPDATE jobs_job SET title = 'another' WHERE state = 'signed'",
    "DELETE FROM jobs_job WHERE number = 411",
    "UPDATE jobs_reading SET typed = '1'",
    "DELETE FROM jobs_photo",
]


@pytest.fixture
def server(demo):
    """A connection with the rights that the server has, to the tables as they were committed."""
    given = connection.settings_dict
    with MySQLdb.connect(
        host=given["HOST"],
        port=int(given["PORT"]),
        user="lash_app",
        password=given["PASSWORD"],
        database=given["NAME"],
    ) as wire:
        yield wire
        wire.rollback()


@pytest.mark.parametrize("statement", FORBIDDEN)
def test_the_server_s_database_user_cannot_rewrite_history(server, statement):
    with pytest.raises(MySQLdb.Error, match="append-only|foreign key constraint") as refused:
        server.cursor().execute(statement)
    assert refused.value.args[0] in (1644, 1451)


@pytest.mark.parametrize(
    "statement",
    ["UPDATE jobs_move SET held = 1", "UPDATE jobs_job SET version = version + 1 WHERE state = 'signed'"],
)
def test_what_goes_on_may_still_be_written(server, statement):
    assert server.cursor().execute(statement) > 0


@pytest.mark.parametrize("statement", ["DROP TRIGGER jobs_reading_no_update", "DROP TABLE jobs_reading"])
def test_the_server_s_database_user_cannot_take_the_lock_off(server, statement):
    with pytest.raises(MySQLdb.Error, match="denied"):
        server.cursor().execute(statement)
