"""The job file as models: its published schema is made from them, and nothing else says what is in it.

Lengths in mm, torques in N·m, written as decimals in text so that nothing is rounded; every reading also
stands as it was typed. A field with a default was added by a later format than the first: a file without it
is still taken in.
"""

from functools import cache
from typing import Annotated, Any, Literal

import msgspec
from msgspec import UNSET, Meta, Struct, UnsetType

FORMATS = (
    "lash-job/1",
    "lash-job/2",
    "lash-job/3",
    "lash-job/4",
    "lash-job/5",
    "lash-job/6",
    "lash-job/7",
    "lash-job/8",
    "lash-job/9",
)
FORMAT = FORMATS[-1]

Decimals = Annotated[str, Meta(pattern=r"^-?[0-9]{1,8}(\.[0-9]{1,8})?$")]
Moment = Annotated[str, Meta(max_length=40)]
Name = Annotated[str, Meta(max_length=120)]
# An identity of RFC 4122, or the one of noughts alone.
_UUID = r"[0-9a-f]{8}-[0-9a-f]{4}-[1-5][0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}"
Entry = Annotated[str, Meta(pattern=f"^({_UUID}|0{{8}}-0{{4}}-0{{4}}-0{{4}}-0{{12}})$")]
Sha256 = Annotated[str, Meta(pattern=r"^[0-9a-f]{64}$")]
PlaceName = Annotated[str, Meta(pattern="^(depth|preload|ring|far|clock|bearings|slinger|caps)$")]
FlankName = Literal["drive", "coast"]
FlankKey = Annotated[str, Meta(pattern="^(drive|coast)$")]
Word = Annotated[str, Meta(max_length=20)]
Share = Annotated[float, Meta(ge=0, le=1)]
Count = Annotated[int, Meta(ge=1, le=30000)]
Point = Annotated[list[Share], Meta(min_length=2, max_length=2)]
Outline = Annotated[list[Point], Meta(min_length=3, max_length=400)]
SettingsAt = dict[PlaceName, Decimals]


Text12 = Annotated[str, Meta(max_length=12)]
Text24 = Annotated[str, Meta(max_length=24)]
Text30 = Annotated[str, Meta(max_length=30)]
Text40 = Annotated[str, Meta(max_length=40)]
Text60 = Annotated[str, Meta(max_length=60)]
Text160 = Annotated[str, Meta(max_length=160)]
Text200 = Annotated[str, Meta(max_length=200)]
Text500 = Annotated[str, Meta(max_length=500)]
Text1000 = Annotated[str, Meta(max_length=1000)]


class Model(Struct, forbid_unknown_fields=True):
    """A part of the file; what it does not know is refused."""


class RowModel(Model, kw_only=True):
    """What every row that is written once has."""

    entry: Entry
    at: Moment
    by: Name
    settings: SettingsAt


class Mark(Model, kw_only=True):
    """The mark on the pinion; a file of before had its convention told when the job was opened."""

    typed: Text40
    value: Decimals
    convention: Literal["longer", "shorter", "distance"]
    confirmed: Text160 = ""


class Arrival(Model, kw_only=True):
    """What was taken down on arrival beside the readings; what was not is left out."""

    mileage: Annotated[int, Meta(ge=0, le=9999999)] | UnsetType | None = UNSET
    unit: Literal["miles", "km"] | UnsetType = UNSET
    noise: Text500 | UnsetType = UNSET
    note: Text1000 | UnsetType = UNSET


class Fastener(Model, kw_only=True):
    """What was corrected of a group of bolts; or, where ``own`` is true, a group of the shop's own."""

    count: Annotated[int, Meta(ge=1, le=40)] | UnsetType = UNSET
    thread: Text24 | UnsetType = UNSET
    grade: Text24 | UnsetType = UNSET
    hand: Literal["right", "left"] | UnsetType = UNSET
    coating: Text60 | UnsetType = UNSET
    low: Annotated[float, Meta(gt=0)] | UnsetType = UNSET
    high: Annotated[float, Meta(gt=0)] | UnsetType = UNSET
    own: bool | UnsetType = UNSET
    title: Text40 | UnsetType = UNSET
    shape: Word | UnsetType = UNSET
    after: Word | UnsetType = UNSET
    note: Name | UnsetType = UNSET
    source: Name | UnsetType = UNSET


class VehicleModel(Model, kw_only=True):
    """The vehicle around the axle, as it was described: text by field."""

    identity: Entry
    name: Annotated[str, Meta(min_length=2, max_length=80)]
    note: Text200 = ""
    figures: Annotated[dict[str, Annotated[str, Meta(max_length=120)]], Meta(max_length=60)] = {}


class About(Model, kw_only=True):
    """The job itself."""

    number: Annotated[int, Meta(ge=1, le=2_000_000_000)]
    title: Annotated[str, Meta(min_length=1, max_length=120)]
    customer: Name
    complaint: Annotated[str, Meta(max_length=2000)]
    arrived_on: Annotated[str, Meta(max_length=10)]
    promised_on: Annotated[str, Meta(max_length=10)] | None
    state: Literal["open", "signed"]
    new_bearings: bool
    mark: Mark
    scope: Text12 = "whole"
    urgency: Annotated[int, Meta(ge=1, le=3)] = 1
    ways: Annotated[dict[str, Word], Meta(max_length=20)]
    shapes: dict[PlaceName, Text40] = {}
    reasons: Annotated[dict[str, Text200], Meta(max_length=20)] = {}
    choices: Annotated[dict[str, Text30], Meta(max_length=40)] = {}
    arrival: Arrival = msgspec.field(default_factory=Arrival)
    fasteners: Annotated[dict[str, Fastener], Meta(max_length=30)] = {}
    tools: Annotated[dict[str, Literal["have", "missing"]], Meta(max_length=200)] = {}
    vehicle: VehicleModel | None = None
    vehicle_end: Literal["front", "rear"] = "rear"


class Figure(Model, kw_only=True):
    """One figure of a sheet."""

    low: Text24 | None
    high: Text24 | None
    unit: Text12
    source: Word
    note: Text160
    tolerance: Text24 | None = None


class TwoFigures(Figure, kw_only=True):
    """A figure that a second manual gives otherwise, and which of them is in force."""

    second: Figure | UnsetType = UNSET
    in_force: Literal["first", "second"] = "first"


class SheetModel(Model, kw_only=True):
    """The job's own copy of its sheet."""

    name: Annotated[str, Meta(max_length=80)]
    layout: Annotated[dict[str, Word], Meta(max_length=20)]
    gears: Annotated[dict[str, float | Word], Meta(max_length=20)]
    backlash_rule: Word
    stance: Word
    torque_figure: Word = "running"
    values: Annotated[dict[str, TwoFigures], Meta(max_length=60)]
    chart: dict[FlankKey, Outline] = {}


class ReadingModel(RowModel, kw_only=True):
    """One reading as typed, or the striking of an earlier one."""

    kind: Text40
    place: Annotated[int, Meta(ge=1, le=99)]
    typed: Text40
    unit: Text12
    value: Decimals | None
    conditions: Annotated[dict[str, Any], Meta(max_length=20)]
    instrument: Annotated[str, Meta(max_length=80)]
    resolution: Decimals | None = None
    overdue: Text40 = ""
    confidence: Literal["fixture", "makeshift"]
    strikes: Entry | None
    reason: Text200


class BesideModel(Model, kw_only=True):
    """What another tooth of the same photo shows."""

    tooth: Annotated[int, Meta(ge=-12, le=12)]
    u: Share
    v: Share
    area: Share


class PatternModel(RowModel, kw_only=True):
    """What is wiped on one flank."""

    flank: FlankName
    outline: Outline
    taken: Literal["hand", "quick", "photo", "found"]
    note: Text200
    more: Annotated[list[Outline], Meta(max_length=5)] = []
    number: Count = 1
    place: Annotated[int, Meta(ge=1, le=12)] = 1
    tooth: Annotated[int, Meta(ge=1, le=80)] | None = None
    edge: Literal["feathered", "hard"] = "feathered"
    strength: Literal["clear", "faint", "dark"] = "clear"
    photo_entry: Entry | None = None
    withdraws: Entry | None = None
    corners: Annotated[list[Point], Meta(max_length=6)] = []
    spread: Annotated[list[Share], Meta(max_length=2)] = []
    beside: Annotated[list[BesideModel], Meta(max_length=12)] = []


class PrintModel(RowModel, kw_only=True):
    """How a print was made."""

    number: Count
    making: Annotated[dict[str, float | Word], Meta(max_length=10)]


class MoveModel(Model, kw_only=True):
    """A change that was advised and made, what was expected of it, and what came of it."""

    title: Name
    station: Word
    swaps: Annotated[list[dict[str, Any]], Meta(max_length=8)]
    expected: Annotated[list[dict[str, Any]], Meta(max_length=12)]
    why: Annotated[list[Annotated[str, Meta(max_length=600)]], Meta(max_length=60)]
    taken_at: Moment
    by: Name
    outcome: Annotated[dict[str, Any], Meta(max_length=20)]
    chance: Share | None = None
    parts: Annotated[dict[str, Share], Meta(max_length=20)] = {}
    held: bool | None = None


class AssemblyModel(Model, kw_only=True):
    """One numbered trial build."""

    number: Count
    started_at: Moment
    by: Name
    note: Text200
    packs: dict[PlaceName, Annotated[list[Decimals], Meta(max_length=40)]]
    adjusters: SettingsAt
    readings: Annotated[list[ReadingModel], Meta(max_length=5000)]
    patterns: Annotated[list[PatternModel], Meta(max_length=500)]
    prints: Annotated[list[PrintModel], Meta(max_length=500)] = []
    moves: Annotated[list[MoveModel], Meta(max_length=500)]


class SignOffModel(RowModel, kw_only=True):
    """A person's word for a station."""

    station: Word
    deviation: bool
    reason: Text500
    statement: Annotated[list[Text500], Meta(max_length=40)]
    withdrawn: bool


class StepMarkModel(RowModel, kw_only=True):
    """A mark on a step."""

    step: Text40
    mark: Annotated[str, Meta(max_length=6)]
    reason: Text500
    before: Annotated[list[Text40], Meta(max_length=200)] = []


class RegisterModel(RowModel, kw_only=True):
    """A line of the register of parts and marks."""

    item: Word
    event: Annotated[str, Meta(max_length=8)]
    words: Text200
    pieces: Annotated[list[Decimals], Meta(max_length=12)]
    count: Annotated[int, Meta(ge=0, le=500)]


class FindingModel(RowModel, kw_only=True):
    """What was seen on a part."""

    part: Word
    sign: Word
    decision: Annotated[str, Meta(max_length=8)]
    reason: Text200


class CarrierLineModel(RowModel, kw_only=True):
    """A line of the log of adjusters and caps."""

    done: Annotated[str, Meta(max_length=8)]
    ring: Decimals
    far: Decimals
    words: Text200


class TighteningModel(RowModel, kw_only=True):
    """A signed stage of a group of bolts."""

    group: Word
    stage: Annotated[int, Meta(ge=1, le=20)]
    typed: Text40
    unit: Text12
    value: Decimals
    words: Text200


class TimerModel(Model, kw_only=True):
    """A wait."""

    step: Text40
    title: Text60
    minutes: Annotated[int, Meta(ge=1, le=1440)]
    by: Name
    started_at: Moment
    due_at: Moment
    ended_at: Moment | None
    ended_by: Name


class PhotoModel(RowModel, kw_only=True):
    """A photo of the archive, by its digest."""

    step: Text40
    caption: Text200
    name: Name
    width: Annotated[int, Meta(ge=1, le=100_000)]
    height: Annotated[int, Meta(ge=1, le=100_000)]
    focal: Annotated[int, Meta(ge=1, le=2000)] | None = None
    sha256: Sha256


Day = Annotated[str, Meta(max_length=10)]


class DeliveryModel(Model, kw_only=True):
    """What came of one line of parts."""

    entry: Entry
    quantity: Decimals
    at: Moment
    by: Name
    miced: Annotated[list[Decimals], Meta(max_length=12)] = []


class PartLineModel(Model, kw_only=True):
    """A line of the job's parts."""

    entry: Entry
    part: Text30
    words: Name
    kind: Literal["part", "consumable", "shim", "tool", "outside", "core", "wasted"]
    quantity: Decimals
    unit: Annotated[str, Meta(max_length=8)]
    why: Text200
    state: Literal["needed", "quoted", "ordered", "on its way", "here", "fitted", "returned", "not needed"]
    owner: Literal["shop", "customer"]
    supplier: Annotated[str, Meta(max_length=80)]
    price: Decimals | None
    charge: Decimals | None
    due_on: Day | None
    received: Decimals
    arrived_on: Day | None
    family: Annotated[str, Meta(max_length=8)]
    size: Decimals | None
    claim: Text200
    claim_settled: Text200
    credit: Decimals
    by: Name
    at: Moment
    deliveries: Annotated[list[DeliveryModel], Meta(max_length=100)] = []


class MoneyLineModel(Model, kw_only=True):
    """A line of an estimate, a supplement or an account."""

    group: Word
    words: Text200
    quantity: Decimals
    unit: Annotated[str, Meta(max_length=8)]
    price: Decimals
    stage: Text60
    low: Decimals | None
    high: Decimals | None
    credit: bool
    amount: Decimals


class MoneyTotalsModel(Model, kw_only=True):
    """What its lines add up to."""

    net: Decimals
    tax: Decimals
    gross: Decimals
    least: Decimals
    most: Decimals
    deposit: Decimals
    paid: Decimals
    due: Decimals
    rate: Decimals
    groups: Annotated[dict[str, Decimals], Meta(max_length=10)]
    hours: Annotated[list[float], Meta(max_length=3)]


class MoneySheetModel(RowModel, kw_only=True):
    """An estimate, a supplement or an account."""

    kind: Literal["estimate", "supplement", "account"]
    number: Annotated[int, Meta(ge=1, le=1000)]
    lines: Annotated[list[MoneyLineModel], Meta(max_length=400)]
    totals: MoneyTotalsModel
    currency: Annotated[str, Meta(min_length=3, max_length=3)]
    words: Text500
    step: Text40


class AnswerModel(RowModel, kw_only=True):
    """The customer's yes or no to an estimate or a supplement."""

    sheet: Entry
    agreed: bool
    name: Name
    how: Name


class PaymentModel(RowModel, kw_only=True):
    """Money that came in, or went back."""

    amount: Decimals
    words: Name


class NotedModel(RowModel, kw_only=True):
    """A line about the ratio or the road; its kind says what is in its values."""

    kind: Text12
    values: Annotated[dict[str, Any], Meta(max_length=20)]
    strikes: Entry | None = None


class Origin(Model, kw_only=True):
    """Where the exported job had come from itself, when a file had brought it in."""

    by: Name
    at: Moment
    number: Annotated[int, Meta(ge=1, le=2_000_000_000)]
    seal: Text200


class Seal(Model, kw_only=True):
    """By whom the file was exported, and a keyed digest that this shop can check."""

    shop: Entry
    shop_name: Annotated[str, Meta(max_length=80)]
    exported_at: Moment
    digest: Sha256


class JobFile(Model, kw_only=True):
    """One axle's job: its sheet, assemblies, readings, prints, moves and signatures, and the work on it."""

    format: Literal[
        "lash-job/1",
        "lash-job/2",
        "lash-job/3",
        "lash-job/4",
        "lash-job/5",
        "lash-job/6",
        "lash-job/7",
        "lash-job/8",
        "lash-job/9",
    ]
    job: About
    sheet: SheetModel
    assemblies: Annotated[list[AssemblyModel], Meta(min_length=1, max_length=200)]
    sign_offs: Annotated[list[SignOffModel], Meta(max_length=1000)]
    step_marks: Annotated[list[StepMarkModel], Meta(max_length=5000)] = []
    register: Annotated[list[RegisterModel], Meta(max_length=2000)] = []
    findings: Annotated[list[FindingModel], Meta(max_length=2000)] = []
    carrier_lines: Annotated[list[CarrierLineModel], Meta(max_length=5000)] = []
    tightenings: Annotated[list[TighteningModel], Meta(max_length=2000)] = []
    timers: Annotated[list[TimerModel], Meta(max_length=500)] = []
    photos: Annotated[list[PhotoModel], Meta(max_length=500)] = []
    part_lines: Annotated[list[PartLineModel], Meta(max_length=1000)] = []
    money_sheets: Annotated[list[MoneySheetModel], Meta(max_length=500)] = []
    answers: Annotated[list[AnswerModel], Meta(max_length=500)] = []
    payments: Annotated[list[PaymentModel], Meta(max_length=500)] = []
    ratio_lines: Annotated[list[NotedModel], Meta(max_length=1000)] = []
    road_lines: Annotated[list[NotedModel], Meta(max_length=5000)] = []
    noise_lines: Annotated[list[NotedModel], Meta(max_length=5000)] = []
    came_from: Origin | UnsetType = UNSET
    seal: Seal | UnsetType = UNSET


@cache
def schema() -> dict[str, Any]:
    """The published JSON Schema of a job file; its identifier follows the format's version."""
    made = _counts_first(msgspec.json.schema(JobFile))
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"urn:lash:job:{FORMAT.rsplit('/', 1)[1]}",
        **made,
    }


def _counts_first(part: Any) -> Any:
    """The schema with a list's length before what is in it: too long a list is refused unread."""
    if isinstance(part, list):
        return [_counts_first(inner) for inner in part]
    if not isinstance(part, dict):
        return part
    names = sorted(part, key=lambda name: name not in {"maxItems", "minItems"})
    return {name: _counts_first(part[name]) for name in names}
