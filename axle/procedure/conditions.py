"""The conditions under which a reading was taken: part of the reading, checked here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from axle.errors import AxleError
from axle.gearset import Stance

_TORQUES = ("pinion_torque", "total_torque", "carrier_torque", "arrival_total_torque")
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
    shape: type[TorqueConditions | BacklashConditions] | None = None
    if kind in _TORQUES:
        shape = TorqueConditions
    elif kind in _BACKLASHES:
        shape = BacklashConditions
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
