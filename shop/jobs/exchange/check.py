"""A job file held to its schema, then to what the core knows; the first thing that is wrong is named."""

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Any

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError, best_match

from axle.carrier.adjuster_log import AdjusterEntry, AdjusterEvent, adjuster_log_of
from axle.contact.print_conditions import making_of
from axle.depth.marks import Mark, MarkConvention
from axle.errors import AxleError
from axle.fasteners.groups import corrected_group, own_group, torque_sheet
from axle.gearing.lines import read_ratio_line
from axle.gearing.vehicle import vehicle_from
from axle.noise.lines import read_noise_line
from axle.procedure.choices import Build, choices, still_possible
from axle.procedure.conditions import conditions_of
from axle.procedure.findings import Found
from axle.procedure.names import KindName
from axle.procedure.register import Event, items
from axle.procedure.scope import scopes
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import step_named
from axle.road.lines import read_road_line
from axle.spec.reader import read_spec
from axle.workflow.progress import StepMarkKind
from shop.jobs.actions.steps import is_listed
from shop.jobs.exchange.file_models import schema
from shop.jobs.exchange.row_tables import NOTED, OF_ASSEMBLY, OF_JOB, OF_LEDGER, PHOTOS, day, moment, refuse
from shop.jobs.noted_lines import STRUCK
from shop.jobs.rows import patch_of
from shop.stock.models import Family

_LONGEST_SHOWN = 60
_MOST_OF_A_RUN = 1000


def check_file(data: Any) -> None:
    """Hold a file to the schema, then to what the core knows.

    :raises AxleError: naming the place of the first thing that cannot be used.
    """
    # Lazily: a file with a million wrong readings is refused at the first.
    error = next(Draft202012Validator(schema()).iter_errors(data), None)
    if error is not None:
        _refuse_by_schema(error)
    _check_job(data)
    numbers = [assembly["number"] for assembly in data["assemblies"]]
    if numbers != sorted(set(numbers)):
        refuse("assemblies", "numbers out of order", "each number once, rising")
    rows = _Rows()
    for index, assembly in enumerate(data["assemblies"]):
        moment(assembly["started_at"], f"assemblies/{index}/started_at")
        for table in OF_ASSEMBLY:
            rows.check(table.name, assembly.get(table.name, []), f"assemblies/{index}/{table.name}")
    for line in data.get("part_lines", []):
        rows.check("deliveries", line.get("deliveries", []), "part_lines/deliveries")
    for table in (*OF_JOB, PHOTOS, *OF_LEDGER, *NOTED):
        rows.check(table.name, data.get(table.name, []), table.name)
    _check_bolts(data)
    _in_words("carrier_lines", lambda: adjuster_log_of(map(_entry_of, data.get("carrier_lines", []))))


def _refuse_by_schema(error: ValidationError) -> None:
    if error.validator == "anyOf":
        error = best_match([error]) or error
    where = "/".join(str(part) for part in error.absolute_path) or "the file"
    given = str(error.instance)
    shown = f"“{given}”" if len(given) <= _LONGEST_SHOWN else "something else"
    allowed: Any = error.validator_value
    words: dict[str, Callable[[], str]] = {
        "required": lambda: f"all of {', '.join(allowed)}",
        "additionalProperties": lambda: "no other entries than the format's",
        "type": lambda: f"a value of the kind {allowed}",
        "enum": lambda: f"one of {', '.join(map(str, allowed))}",
        "maxItems": lambda: f"at most {allowed} entries",
        "maxLength": lambda: f"at most {allowed} characters",
    }
    refuse(where, shown, words.get(str(error.validator), lambda: "what docs/format.md describes")())


def _check_job(data: Mapping[str, Any]) -> None:
    about = data["job"]
    try:
        spec = read_spec(data["sheet"])
    except AxleError as problem:
        refuse(f"sheet, {problem.what}", problem.given, problem.wanted)
    mark = about["mark"]
    try:
        Mark(float(mark["value"]), MarkConvention(mark["convention"]))
    except AxleError as problem:
        refuse("job/mark", problem.given, problem.wanted)
    for name in ("arrived_on", "promised_on"):
        if about[name] is not None:
            day(about[name], f"job/{name}")
    scope = about.get("scope", "whole")
    if scope not in scopes():
        refuse("job/scope", f"“{scope}”", ", ".join(scopes()))
    chosen = about.get("choices", {})
    for name, value in chosen.items():
        if name not in choices() or value not in choices()[name].values:
            refuse(f"job/choices/{name}", f"“{value}”", "a choice that Lash knows")
    lost = set(chosen) - set(still_possible(spec.layout, chosen, scope))
    if lost:
        refuse(f"job/choices/{min(lost)}", f"“{chosen[min(lost)]}”", "one that this axle can have")
    if about.get("vehicle"):
        _in_words("job/vehicle", lambda: vehicle_from(about["vehicle"]["figures"]))
    for name, state in about.get("tools", {}).items():
        if not is_listed(name):
            refuse(f"job/tools/{name}", f"“{state}”", "have or missing, of a tool that Lash knows")


class _Rows:
    """Holds rows to what the core knows, and remembers what stands once in a file."""

    def __init__(self) -> None:
        self._entries: set[str] = set()
        self._standing: set[str | None] = set()
        self._probes: Mapping[str, Callable[[Mapping[str, Any], str], object]] = {
            "readings": self._reading,
            "patterns": _pattern,
            "prints": lambda given, at: _in_words(f"{at}/making", lambda: making_of(given["making"])),
            "sign_offs": _sign_off,
            "step_marks": lambda given, at: _in_words(
                at, lambda: (step_named(given["step"]), _member(StepMarkKind, given["mark"], "mark"))
            ),
            "register": lambda given, at: _in_words(
                at, lambda: (_item(given["item"]), _member(Event, given["event"], "event"))
            ),
            "findings": lambda given, at: _in_words(
                at,
                lambda: Found(
                    given["part"], given["sign"], decision=given["decision"], reason=given["reason"]
                ),
            ),
            "carrier_lines": lambda given, at: _in_words(at, lambda: _entry_of(given)),
            "photos": lambda given, at: _in_words(at, lambda: step_named(given["step"])),
            "part_lines": _part_line,
            "ratio_lines": lambda given, at: _noted(given, at, read_ratio_line),
            "road_lines": lambda given, at: _noted(given, at, read_road_line),
            "noise_lines": lambda given, at: _noted(given, at, read_noise_line),
            "money_sheets": lambda given, at: _in_words(
                at, lambda: given["step"] and step_named(given["step"])
            ),
        }

    def check(self, name: str, rows: list[Mapping[str, Any]], where: str) -> None:
        """Hold the rows of one list to what the core knows, and to what all rows share."""
        probe = self._probes.get(name)
        for index, given in enumerate(rows):
            at = f"{where}/{index}"
            if probe is not None:
                probe(given, at)
            for time in ("at", "taken_at", "started_at", "due_at", "ended_at"):
                if given.get(time) is not None:
                    moment(given[time], f"{at}/{time}")
            if "entry" in given:
                if given["entry"] in self._entries:
                    refuse(f"{at}/entry", given["entry"], "each entry once")
                self._entries.add(given["entry"])

    def _reading(self, given: Mapping[str, Any], at: str) -> None:
        try:
            kind = kind_named(given["kind"])
        except AxleError:
            refuse(f"{at}/kind", f"“{given['kind']}”", "a kind of reading that Lash knows")
        try:
            if given["value"] is not None:
                kind.check(Decimal(given["value"]), given["typed"])
        except AxleError as problem:
            refuse(f"{at}/value", problem.given, problem.wanted)
        self._conditions(given["kind"], given["conditions"], f"{at}/conditions")
        if given["strikes"] is not None and given["strikes"] not in self._standing:
            refuse(f"{at}/strikes", given["strikes"], "the entry of an earlier reading, struck once")
        self._standing.discard(given["strikes"])
        self._standing.add(given["entry"])

    def _conditions(self, kind: str, given: Mapping[str, Any], at: str) -> None:
        try:
            conditions_of(kind, given)
        except AxleError as problem:
            refuse(at, problem.given, problem.wanted)
        except (TypeError, ValueError, ArithmeticError):
            refuse(at, "a value of another sort", "conditions as docs/format.md describes them")
        if kind in (KindName.RING_RUN, KindName.FLANGE_RUN):
            for name in ("run", "turn", "places"):
                number = given.get(name)
                if (
                    not isinstance(number, int)
                    or isinstance(number, bool)
                    or not 0 < number < _MOST_OF_A_RUN
                ):
                    refuse(f"{at}/{name}", f"“{str(number)[:20]}”", "a whole number, 1 or more")


def _noted(given: Mapping[str, Any], at: str, reader: Callable[[str, Mapping[str, Any]], object]) -> None:
    """A line about ratio or road: what its kind holds, or nothing but the strike of another."""
    if given.get("strikes") is None:
        _in_words(at, lambda: reader(given["kind"], given["values"]))
    elif given["kind"] != STRUCK:
        refuse(f"{at}/kind", f"“{given['kind']}”", f"{STRUCK}, of a line that strikes another")


def _part_line(given: Mapping[str, Any], at: str) -> None:
    for name in ("due_on", "arrived_on"):
        if given[name] is not None:
            day(given[name], f"{at}/{name}")
    for name in ("quantity", "received"):
        if Decimal(given[name]) < 0:
            refuse(f"{at}/{name}", given[name], "0 or more")
    if given["family"] and given["family"] not in Family.values:
        refuse(f"{at}/family", f"“{given['family']}”", ", ".join(Family.values))


def _pattern(given: Mapping[str, Any], at: str) -> None:
    more = ((f"more/{n}", outline) for n, outline in enumerate(given.get("more", [])))
    for name, outline in (("outline", given["outline"]), *more):
        try:
            patch_of(outline)
        except AxleError as problem:
            refuse(f"{at}/{name}", problem.given, problem.wanted)


def _sign_off(given: Mapping[str, Any], at: str) -> None:
    if given["station"] not in stations():
        refuse(f"{at}/station", f"“{given['station']}”", "a station of the work")


def _check_bolts(data: Mapping[str, Any]) -> None:
    about, spec = data["job"], read_spec(data["sheet"])
    scope = about.get("scope", "whole")
    chosen = still_possible(spec.layout, about.get("choices", {}), scope)
    facts = Build(spec.layout, bool(about["new_bearings"]), chosen, scope=scope).facts
    groups = {group.group: group for group in torque_sheet(facts, spec.sheet)}
    for name, given in about.get("fasteners", {}).items():
        where = f"job/fasteners/{name}"
        if not given.get("own") and name not in groups:
            refuse(where, "a group that this axle has not", ", ".join(groups))
        try:
            own_group(name, given) if given.get("own") else corrected_group(groups[name], given)
        except (AxleError, TypeError, ValueError) as problem:
            if given.get("own"):
                refuse(where, "a group that cannot be", "title, count, thread, class, torque")
            wanted = problem.wanted if isinstance(problem, AxleError) else "usable values"
            refuse(where, "a correction that cannot be", wanted)


def _in_words(where: str, probe: Callable[[], object]) -> None:
    try:
        probe()
    except AxleError as problem:
        refuse(f"{where}, {problem.what}", problem.given, problem.wanted)
    except (TypeError, ValueError, KeyError, ArithmeticError):
        refuse(where, "a value of another sort", "what docs/format.md describes")


def _entry_of(given: Mapping[str, Any]) -> AdjusterEntry:
    event = _member(AdjusterEvent, given["done"], "done")
    return AdjusterEntry(event, float(given["ring"]), float(given["far"]))


def _item(name: str) -> str:
    if name not in items():
        raise AxleError("item", given=f"“{name[:20]}”", wanted="an item of the register")
    return name


def _member(kind: type, value: str, what: str) -> Any:
    try:
        return kind(value)
    except ValueError:
        wanted = ", ".join(member.value for member in kind)  # type: ignore[attr-defined]
        raise AxleError(what, given=f"“{value[:20]}”", wanted=wanted) from None
