"""The conditions under which a reading was taken: part of the reading, checked here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from axle.errors import AxleError
from axle.gearset import Stance

_TORQUES = (
    "pinion_torque", "total_torque", "carrier_torque", "arrival_total_torque", "arrival_pinion_torque",
)  # fmt: skip
_RUNS = ("ring_run", "flange_run")
_BACKLASHES = ("backlash", "arrival_backlash")


@dataclass(frozen=True)
class TorqueConditions:
    """How a rotating torque was read.

    :param seal: whether the seal was in; such a figure is not held to a range without seal.
    """

    seal: bool = False

    def __post_init__(self) -> None:
        if not isinstance(self.seal, bool):
            raise AxleError("seal", given=f"“{self.seal}”", wanted="in or not in")


@dataclass(frozen=True)
class BacklashConditions:
    """How backlash was read.

    :param stance: how the indicator stood at the heel.
    """

    stance: str = Stance.ALONG.value

    def __post_init__(self) -> None:
        if self.stance not in {stance.value for stance in Stance}:
            raise AxleError("indicator", given=f"“{self.stance}”", wanted="along or square")


@dataclass(frozen=True)
class RunConditions:
    """Which run around the ring a reading belongs to.

    :param run: number of the run on its job, from 1.
    :param places: n, number of places of the run.
    :param turn: which turn, from 1.
    """

    run: int = 1
    places: int = 8
    turn: int = 1

    def __post_init__(self) -> None:
        for name, least, most in (("run", 1, 999), ("places", 3, 72), ("turn", 1, 12)):
            value = getattr(self, name)
            if not isinstance(value, int) or not least <= value <= most:
                raise AxleError(name, given=f"“{value}”", wanted=f"{least} to {most}")


def checked(kind: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """Check the conditions of a reading and fill in what is usual.

    :param kind: as in ``readings.toml``.
    :param given: conditions by name; none for a kind that has none.
    :returns: plain data, as it is kept beside the reading.
    :raises AxleError: for a condition that the kind does not have, or a value it cannot have.
    :source: common practice.

    >>> checked("pinion_torque", {})
    {'seal': False}
    """
    shape: type[TorqueConditions | BacklashConditions | RunConditions] | None = None
    if kind in _TORQUES:
        shape = TorqueConditions
    elif kind in _BACKLASHES:
        shape = BacklashConditions
    elif kind in _RUNS:
        shape = RunConditions
    known = set(shape.__dataclass_fields__) if shape else set()
    unknown = sorted(set(given) - known)
    if unknown:
        raise AxleError("condition", given=f"“{unknown[0]}”", wanted="one that this reading has")
    return asdict(shape(**given)) if shape else {}


def has_stance(kind: str) -> bool:
    """Say whether a kind depends on how the indicator stands.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> has_stance("backlash")
    True
    """
    return kind in _BACKLASHES


def has_seal(kind: str) -> bool:
    """Say whether a kind can be read with a seal in.

    :param kind: as in ``readings.toml``.
    :source: common practice.

    >>> has_seal("backlash")
    False
    """
    return kind in _TORQUES
