"""What is set in an axle: packs, adjusters, and what else bears on its readings."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal
from typing import Final

from axle.layout import Place

_NOTHING: Final = Decimal(0)


class Settings(Mapping[Place, Decimal]):
    """Pack thickness [mm], holes turned in, or a count, by place; it is never changed.

    Nothing fitted at a place counts as 0 where two settings are compared.

    >>> fitted = Settings({Place.DEPTH: Decimal("0.76")})
    >>> fitted.at(Place.RING), fitted.changed({Place.DEPTH: Decimal("0.81")}).at(Place.DEPTH)
    (Decimal('0'), Decimal('0.81'))
    """

    __slots__ = ("_values",)

    def __init__(self, values: Mapping[Place, Decimal] | None = None) -> None:
        self._values = dict(values or {})

    def __getitem__(self, place: Place) -> Decimal:
        return self._values[place]

    def __iter__(self) -> Iterator[Place]:
        return iter(self._values)

    def __len__(self) -> int:
        return len(self._values)

    def __hash__(self) -> int:
        return hash(frozenset(self._values.items()))

    def __repr__(self) -> str:
        inner = ", ".join(f"{place.value}: {value}" for place, value in self._values.items())
        return f"Settings({inner})"

    @classmethod
    def of(cls, values: Mapping[Place, Decimal]) -> Settings:
        """Any mapping as settings; settings as they are."""
        return values if isinstance(values, cls) else cls(values)

    def at(self, place: Place) -> Decimal:
        """What is set at a place; 0 where nothing is."""
        return self._values.get(place, _NOTHING)

    def changed(self, changes: Mapping[Place, Decimal]) -> Settings:
        """These settings with some places set otherwise."""
        return Settings({**self._values, **changes})

    def same_at(self, other: Settings, places: Iterable[Place]) -> bool:
        """Whether both are alike at some places."""
        return all(self.at(place) == other.at(place) for place in places)

    def same_as(self, other: Settings) -> bool:
        """Whether both are alike at every place."""
        return self.same_at(other, set(self) | set(other))
