"""The shape of a depth result: a sum, line by line, each line with what it is uncertain by."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from axle.errors import AxleError
from axle.layout import Layout


@dataclass(frozen=True)
class Term:
    """One line of a sum that ends in a thickness.

    :param label: what the line is, in the trade's words.
    :param value: signed contribution [mm]; 0 for a line that only adds uncertainty.
    :param spread: standard uncertainty of the line [mm].
    :param shared: name of the quantity where several methods rest on the same one, or "".
    """

    label: str
    value: float
    spread: float = 0.0
    shared: str = ""

    def times(self, sign: int) -> Term:
        """The same line with its sign turned by a layout's."""
        return Term(self.label, sign * self.value, spread=self.spread, shared=self.shared)


@dataclass(frozen=True)
class DepthResult:
    """The depth shim that is wanted, with the sum that leads to it.

    :param terms: the lines of the sum.
    :param title: how it was found, in words.
    :param method: name of the method.
    """

    terms: tuple[Term, ...]
    title: str
    method: str

    @property
    def thickness(self) -> float:
        """Wanted thickness t [mm], the sum of the lines."""
        return sum(term.value for term in self.terms)

    @property
    def uncertainty(self) -> float:
        """Standard uncertainty of t [mm]; the lines are independent (JCGM 100:2008, 5.1.2)."""
        return math.hypot(*(term.spread for term in self.terms))

    @property
    def own(self) -> float:
        """Standard uncertainty of what no other method rests on [mm]."""
        return math.hypot(*(term.spread for term in self.terms if not term.shared))

    def shared_with(self, other: DepthResult) -> float:
        """Covariance with another method's result [mm²], through the quantities both rest on."""
        theirs = {term.shared: term for term in other.terms if term.shared}
        found = 0.0
        for term in self.terms:
            match = theirs.get(term.shared)
            if match is not None:
                found += term.spread * match.spread
        return found


def depth_result(terms: Iterable[Term], title: str, method: str) -> DepthResult:
    """Close a sum, and refuse one that asks for less than nothing.

    :param terms: its lines.
    :param title: how it was found.
    :param method: name of the method.
    :raises AxleError: when the sum is negative.
    :source: models of the depth methods in this package.

    >>> depth_result([Term("feeler", 0.8), Term("mark", -0.05)], "block", "gauge").thickness
    0.75
    """
    found = DepthResult(tuple(terms), title, method)
    if found.thickness < 0:
        raise AxleError(
            "depth shim",
            given=f"readings that ask for {found.thickness:.3f} mm",
            wanted="0 or more",
            do="Check the sign of the mark, the trial shim and the unit of each reading.",
        )
    return found


def depth_error(layout: Layout, fitted: float, wanted: float) -> float:
    """How much too deep the pinion sits with a pack, from the pack that is wanted.

    :param layout: the axle's layout.
    :param fitted: thickness of the depth pack in the axle [mm].
    :param wanted: thickness that the measurement asks for [mm].
    :returns: depth error [mm], > 0 too deep.
    :source: the layout's sign.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> cartridge = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(depth_error(cartridge, 0.50, 0.45), 3)
    -0.05
    """
    return layout.depth_sign * (fitted - wanted)


def chance_within(error: float, spread: float, tolerance: float) -> float:
    """Chance that the pinion truly lies within a tolerance of where it should.

    :param error: depth error to be expected [mm], > 0 too deep.
    :param spread: standard uncertainty of it [mm], 0 or more.
    :param tolerance: allowed either way [mm], 0 or more.
    :returns: 0 to 1.
    :raises AxleError: for a negative spread or tolerance.
    :source: normal distribution (JCGM 100:2008, 4.3.9 note 1 for its use).

    >>> round(chance_within(0.0, 1.0, 1.96), 3)
    0.95
    """
    if spread < 0 or tolerance < 0:
        raise AxleError(
            "tolerance", given=f"±{tolerance:g}, spread {spread:g} mm", wanted="0 or more of each"
        )
    if spread == 0:
        return 1.0 if abs(error) <= tolerance + 1e-12 else 0.0
    scale = spread * math.sqrt(2)
    return 0.5 * (math.erf((tolerance - error) / scale) + math.erf((tolerance + error) / scale))
