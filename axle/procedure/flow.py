"""How the work flows: machines that steps hold, breaks that they stand, and what follows at once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from axle.procedure.stations import stations
from axle.procedure.steps import Step, steps, tools

ALL: Final = "all"
BENCH: Final = "bench"


class Machine(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A machine that a shop counts.

    :param title: in the trade's words.
    :param usual: how many a shop begins with.
    :param without: the other way where there is none.
    :param costs: minutes that the other way costs each time.
    :param tool: the tool of a step that it stands for, or "".
    """

    title: str
    usual: int
    without: str
    costs: int
    tool: str = ""


class StepFlow(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How one step goes on.

    :param pauses: whether it may stop over a break or a night.
    :param before: minutes of it before its wait; nothing where the wait follows all of it.
    :param lag: minutes after the wait within which the rest begins, or nothing.
    :param on: the machine that works during the wait, or "".
    :param meanwhile: steps of the same axle that are done in the wait.
    :param with_next: whether it is one stretch with the step that follows.
    """

    pauses: bool = True
    before: int | None = None
    lag: int | None = None
    on: str = ""
    meanwhile: tuple[str, ...] = ()
    with_next: bool = False


class _File(msgspec.Struct, forbid_unknown_fields=True):
    machine: dict[str, Machine]
    step: dict[str, StepFlow]
    apart: dict[str, str]
    may: dict[str, tuple[str, ...]]


@cache
def _file() -> _File:
    read = read_table(__file__, "data/flow.toml", _File)
    known, tool_names = steps(), tools()
    for name, flow in read.step.items():
        wrong = [s for s in (name, *flow.meanwhile) if s not in known]
        wrong += [flow.on] if flow.on and flow.on not in read.machine else []
        if wrong:
            raise AxleError("flow.toml", given=", ".join(wrong), wanted="steps and machines that there are")
    for name, machine in read.machine.items():
        if machine.tool and machine.tool not in tool_names:
            raise AxleError("flow.toml", given=f"tool “{machine.tool}” of {name}", wanted="a tool")
    for role, names in read.may.items():
        wrong = [s for s in names if s != ALL and s not in stations()]
        if wrong:
            raise AxleError("flow.toml", given=f"{', '.join(wrong)} of {role}", wanted="stations")
    return read


def machines() -> Mapping[str, Machine]:
    """Every machine that a shop counts, by name.

    :raises AxleError: when the file names what does not exist.
    :source: ``flow.toml``; common practice.

    >>> machines()["press"].tool
    'press'
    """
    return _file().machine


def flow_of(step: str) -> StepFlow:
    """How a step goes on; as usual where nothing is said.

    :param step: its name.
    :source: ``flow.toml``; common practice.

    >>> flow_of("teardown-spread").pauses, flow_of("depth-mark").pauses
    (False, True)
    """
    return _file().step.get(step, _USUAL)


_USUAL: Final = StepFlow()


def machines_of(step: Step) -> tuple[str, ...]:
    """Machines that a step holds while somebody is at it, that of its wait left out.

    :param step: the step.
    :source: ``tools`` of the steps, ``flow.toml``.

    >>> from axle.procedure.steps import step_named
    >>> machines_of(step_named("fit-press")), machines_of(step_named("fit-heat"))
    (('press',), ('freezer',))
    """
    waits_on = flow_of(step.step).on
    return tuple(
        name for name, m in machines().items() if m.tool and m.tool in step.tools and name != waits_on
    )


def may_do(role: str, own: Iterable[str] = ()) -> frozenset[str]:
    """Stations for whose steps a person is planned.

    :param role: "owner", "builder" or "apprentice".
    :param own: what was said of the person: stations, or "all"; nothing where nothing was said.
    :source: ``flow.toml``; common practice.

    >>> "pattern" in may_do("apprentice"), "pattern" in may_do("apprentice", ["all"])
    (False, True)
    """
    named = tuple(own) or _file().may.get(role, ())
    return frozenset(stations()) if ALL in named else frozenset(named)


def is_apart_from(station: str, order: Iterable[str]) -> bool:
    """Whether the axle lies apart at a station, and so holds its bench.

    :param station: the station.
    :param order: the job's stations in order.
    :source: ``flow.toml``.
    """
    names = list(order)
    opened = _file().apart["station"]
    first = names.index(opened) if opened in names else 0
    return station in names and names.index(station) >= first
