"""The one table of rows, for writing and reading: each kind, its model in the file and in the database."""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any, Final, NoReturn

import msgspec
from django.db import models

from axle.errors import AxleError
from shop.jobs.exchange import file_models
from shop.jobs.models import (
    CarrierLine,
    CustomerAnswer,
    Delivery,
    Finding,
    MoneySheet,
    Move,
    NoiseLine,
    PartLine,
    Pattern,
    Payment,
    Photo,
    PrintMade,
    RatioLine,
    Reading,
    RegisterLine,
    RoadLine,
    SignOff,
    StepMark,
    Tightening,
    Timer,
)
from shop.people.models import User


@dataclass(frozen=True)
class RowTable:
    """Rows of one kind.

    :param name: of the list in the file.
    :param model: in the database.
    :param shape: of one row in the file; its fields are named as the model's.
    """

    name: str
    model: type[models.Model]
    shape: type[msgspec.Struct]

    @property
    def is_written_once(self) -> bool:
        """Whether its rows carry an entry, a time and a person, as all rows that are never changed."""
        return issubclass(self.shape, file_models.RowModel)

    def write(self, row: models.Model, **own: object) -> dict[str, Any]:
        """One row as the file has it; ``own`` gives the fields that are not the model's."""
        fields = self.shape.__struct_fields__
        return {name: own[name] if name in own else plain(getattr(row, name)) for name in fields}

    def values(self, given: Mapping[str, Any], user: User) -> dict[str, Any]:
        """What makes one row of the model; what an older format lacks is as it was then."""
        values = {}
        for spec in msgspec.structs.fields(self.shape):
            value = given[spec.name] if spec.name in given else usual(spec)
            values[spec.name] = self._value(spec.name, value)
        return values | ({"person": user, "from_file": True} if self.is_written_once else {})

    def _value(self, name: str, value: Any) -> Any:
        if name not in {field.name for field in self.model._meta.get_fields()}:
            return value
        kind = self.model._meta.get_field(name)
        if value is not None and isinstance(kind, models.DecimalField):
            return Decimal(value)
        if value is not None and isinstance(kind, models.DateTimeField):
            return moment(value, self.name)
        if value is not None and isinstance(kind, models.DateField):
            return day(value, self.name)
        return value


def usual(spec: msgspec.structs.FieldInfo) -> Any:
    """The default of a field that a file may leave out."""
    if spec.default_factory is not msgspec.NODEFAULT:
        return spec.default_factory()
    return spec.default


def plain(value: object) -> object:
    """A model's value as the file has it: decimals and times as text."""
    if isinstance(value, Decimal):
        return f"{value:.8f}"
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, uuid.UUID) else value


def moment(text: str, where: str) -> datetime:
    """A time of the file, with its zone.

    :raises AxleError: naming the place, for anything else.
    """
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        found = None
    if found is None or found.tzinfo is None:
        refuse(where, f"“{text}”", "a date and time with its zone, such as 2026-03-02T09:15:00+00:00")
    return found


def day(text: str, where: str) -> date:
    """A date of the file.

    :raises AxleError: naming the place, for anything else.
    """
    try:
        return date.fromisoformat(text)
    except ValueError:
        refuse(where, f"“{text}”", "a date such as 2026-03-02")


def refuse(where: str, given: str, wanted: str) -> NoReturn:
    """Refuse a file, naming the place."""
    raise AxleError(f"job file, {where}", given=given, wanted=wanted, do="Nothing was taken in.")


READINGS: Final = RowTable("readings", Reading, file_models.ReadingModel)
PATTERNS: Final = RowTable("patterns", Pattern, file_models.PatternModel)
PRINTS: Final = RowTable("prints", PrintMade, file_models.PrintModel)
MOVES: Final = RowTable("moves", Move, file_models.MoveModel)
PHOTOS: Final = RowTable("photos", Photo, file_models.PhotoModel)
PART_LINES: Final = RowTable("part_lines", PartLine, file_models.PartLineModel)
DELIVERIES: Final = RowTable("deliveries", Delivery, file_models.DeliveryModel)
MONEY_SHEETS: Final = RowTable("money_sheets", MoneySheet, file_models.MoneySheetModel)
ANSWERS: Final = RowTable("answers", CustomerAnswer, file_models.AnswerModel)
PAYMENTS: Final = RowTable("payments", Payment, file_models.PaymentModel)
RATIO_LINES: Final = RowTable("ratio_lines", RatioLine, file_models.NotedModel)
ROAD_LINES: Final = RowTable("road_lines", RoadLine, file_models.NotedModel)
NOISE_LINES: Final = RowTable("noise_lines", NoiseLine, file_models.NotedModel)
NOTED: Final = (RATIO_LINES, ROAD_LINES, NOISE_LINES)
OF_LEDGER: Final = (PART_LINES, MONEY_SHEETS, ANSWERS, PAYMENTS)
TIMERS: Final = RowTable("timers", Timer, file_models.TimerModel)
# Rows of a job that need no more than their table; an assembly's rows stand with it.
OF_JOB: Final = (
    RowTable("sign_offs", SignOff, file_models.SignOffModel),
    RowTable("step_marks", StepMark, file_models.StepMarkModel),
    RowTable("register", RegisterLine, file_models.RegisterModel),
    RowTable("findings", Finding, file_models.FindingModel),
    RowTable("carrier_lines", CarrierLine, file_models.CarrierLineModel),
    RowTable("tightenings", Tightening, file_models.TighteningModel),
    TIMERS,
)
OF_ASSEMBLY: Final = (READINGS, PATTERNS, PRINTS, MOVES)
