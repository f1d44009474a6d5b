"""The drawer as a table: CSV out, and in with every row that cannot be used named."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError, quoted
from axle.measure.parse import parse, unit_named
from axle.measure.units import Quantity, Unit
from shop.config.cells import text_cell
from shop.config.table_file import read_rows
from shop.stock.models import Condition, Family, ShimLot, ShimRole
from shop.stock.services import MOST_OF_A_SIZE, Lot

COLUMNS: Final = (
    "family",
    "shape",
    "role",
    "cast",
    "nominal",
    "miced",
    "unit",
    "quantity",
    "condition",
    "bin",
    "kit",
    "low_at",
    "lot",
)
_NEEDED: Final = ("family", "unit", "quantity")


@dataclass(frozen=True)
class Row:
    """One line of a table: the pieces, and the drawer's own number of the lot where the line has one."""

    given: Lot
    lot: int | None = None


@dataclass(frozen=True)
class RowError:
    """A row that cannot be used."""

    row: int
    words: str


class Unusable(Exception):
    """A table with rows that cannot be used: nothing of it was taken in."""

    def __init__(self, errors: list[RowError]) -> None:
        self.errors = errors
        super().__init__(f"{len(errors)} rows cannot be used")


def write(lots: Iterable[ShimLot], unit: Unit) -> str:
    """The drawer as CSV, one lot a row, several readings of the micrometer behind each other."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for lot in lots:
        sizes = lot.readings or [str(lot.miced)]
        miced = " ".join(_in(size, unit) for size in sizes) if lot.is_miced else ""
        table.writerow(
            [
                lot.family,
                text_cell(lot.shape),
                lot.role,
                "yes" if lot.cast else "no",
                _in(lot.nominal, unit),
                miced,
                unit.symbol,
                lot.quantity,
                lot.condition,
                text_cell(lot.bin),
                text_cell(lot.kit),
                lot.low_at,
                lot.pk,
            ]
        )
    return out.getvalue()


def read(data: bytes) -> list[Row]:
    """Read lots from CSV; comma, semicolon or tab between the columns.

    :raises AxleError: for a file that is no table of shims.
    :raises Unusable: with every row that cannot be used.
    """
    rows = read_rows(data, "shim table", COLUMNS, _NEEDED)
    lots: list[Row] = []
    errors = []
    for number, cells in rows:
        try:
            lots.append(Row(lot_from(cells), _lot_number(cells.get("lot", ""))))
        except AxleError as problem:
            errors.append(RowError(number, str(problem)))
    if errors:
        raise Unusable(errors)
    if not lots:
        raise AxleError("shim table", given="no row", wanted="one shim or more")
    return lots


def lot_from(row: dict[str, str]) -> Lot:
    """One lot from the texts of a row.

    :raises AxleError: naming the column that cannot be used.
    """
    unit = unit_named(row.get("unit", ""))
    if not (row.get("nominal") or row.get("miced")):
        raise AxleError("nominal", given="nothing", wanted="a size, as marked or as mic'd")
    miced = readings(row.get("miced", ""), unit, "miced")
    nominal = parse(row["nominal"], unit, "nominal") if row.get("nominal") else miced[0]
    for reading in (*miced, nominal):
        if not 0 < reading.core < 25:
            raise AxleError(
                "thickness", given=f"“{reading.text} {unit.symbol}”", wanted="more than 0, under 25 mm"
            )
    return Lot(
        _word(row, "family", Family.values),
        nominal,
        miced=miced,
        quantity=_whole(row, "quantity", 0 if row.get("lot") else 1, MOST_OF_A_SIZE),
        condition=_word(row, "condition", Condition.values, Condition.NEW),
        bin=row.get("bin", "")[:20],
        shape=row.get("shape", "")[:40],
        role=_word(row, "role", ShimRole.values, ShimRole.SELECT),
        cast=_word(row, "cast", ["yes", "no"], "no") == "yes",
        kit=row.get("kit", "")[:60],
        low_at=_whole(row, "low_at", 0, MOST_OF_A_SIZE) if row.get("low_at") else 0,
    )


def readings(text: str, unit: Unit, what: str) -> tuple[Quantity, ...]:
    """Several readings of one thickness, with blanks between them; a unit may stand behind the last."""
    parts = text.split()
    named = parts.pop() if len(parts) > 1 and not any(sign.isdigit() for sign in parts[-1]) else ""
    return tuple(parse(f"{part} {named}".strip(), unit, what) for part in parts)


def _lot_number(text: str) -> int | None:
    """The drawer's own number of a lot; a line without one is a delivery."""
    if not text:
        return None
    if not (text.isascii() and text.isdigit() and len(text) < 12):
        raise AxleError(
            "lot", given=quoted(text, 20), wanted="the number in the drawer's table, or nothing"
        )
    return int(text)


def _word(row: dict[str, str], column: str, known: list[str], usual: str = "") -> str:
    value = row.get(column, "").lower() or usual
    if value not in known:
        raise AxleError(column, given=quoted(row.get(column, ""), 20), wanted=", ".join(known))
    return value


def _whole(row: dict[str, str], column: str, least: int, most: int) -> int:
    text = row.get(column, "")
    if not (text.isascii() and text.isdigit() and len(text) < 6 and least <= int(text) <= most):
        raise AxleError(column, given=quoted(text, 20), wanted=f"a whole number, {least} to {most}")
    return int(text)


def _in(core: object, unit: Unit) -> str:
    quantity = Quantity("", parse(f"{core} mm", unit).core / unit.factor, unit)
    return f"{quantity.value.normalize():f}"
