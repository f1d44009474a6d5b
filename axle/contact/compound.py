"""Colours of marking compound."""

from __future__ import annotations

from enum import Enum


class Compound(Enum):
    """What teeth are painted with."""

    YELLOW = "yellow"
    WHITE = "white"
    BLUE = "blue"
    RED = "red"
