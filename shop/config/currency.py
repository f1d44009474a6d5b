"""Amounts of money in a shop's own form."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from typing import Final

from babel import Locale, UnknownLocaleError
from babel.numbers import format_currency

# Digits are grouped as in the shop's country; where none is chosen, as in English.
_USUAL: Final = "en"


@dataclass(frozen=True)
class Currency:
    """A shop's currency, and the country in whose form it is written.

    :param code: ISO 4217.
    :param country: ISO 3166, or "" for the usual form.
    """

    code: str
    country: str = ""

    def show(self, amount: Decimal | str | float) -> str:
        """An amount with its currency."""
        shown: str = format_currency(Decimal(str(amount)), self.code, locale=_locale(self.country))
        # A narrow space is none that every font has.
        return shown.replace("\u202f", "\u00a0")


@lru_cache(maxsize=64)
def _locale(country: str) -> Locale:
    if not country:
        return Locale.parse(_USUAL)
    try:
        return Locale.parse(f"und_{country}")
    except (UnknownLocaleError, ValueError):
        return Locale.parse(_USUAL)
