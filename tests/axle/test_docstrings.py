"""Public docstrings of the core: every argument, the errors, a source, one worked example."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import re

import pytest

import axle
from axle.errors import AxleError

MODULES = [
    importlib.import_module(info.name) for info in pkgutil.walk_packages(axle.__path__, prefix="axle.")
]
FUNCTIONS = [
    pytest.param(function, id=f"{module.__name__}.{name}")
    for module in MODULES
    for name, function in inspect.getmembers(module, inspect.isfunction)
    if function.__module__ == module.__name__ and not name.startswith("_")
]
FORMULAS = (
    "axle.depth",
    "axle.carrier",
    "axle.backlash.ratios",
    "axle.backlash.indicator",
    "axle.preload",
    "axle.shims.choose",
    "axle.measure.feeler",
    "axle.gearset",
    "axle.measure.uncertainty",
    "axle.backlash.around",
    "axle.contact",
    "axle.gearing.tyres",
    "axle.gearing.speedometer",
    "axle.gearing.strength",
)


@pytest.mark.parametrize("function", FUNCTIONS)
def test_every_argument_is_described(function):
    text = inspect.getdoc(function) or ""
    described = set(re.findall(r":param (\w+):", text))
    taken = set(inspect.signature(function).parameters)
    assert described <= taken, f"described but not taken: {described - taken}"
    if described:
        usual = {"display", "what", "layout", "state", "tolerances", "standings"}
        assert taken - described <= usual, f"not described: {taken - described}"


@pytest.mark.parametrize("function", [p for p in FUNCTIONS if p.values[0].__module__.startswith(FORMULAS)])
def test_every_formula_names_its_source_and_unit_and_is_worked_once(function):
    text = inspect.getdoc(function) or ""
    assert ":source:" in text
    assert ">>>" in text
    assert re.search(r"\[[^\]]+\]|readings|unit", text), "no unit"


@pytest.mark.parametrize("module", MODULES, ids=lambda module: module.__name__)
def test_every_module_says_what_it_is(module):
    assert module.__doc__
    assert module.__doc__.split("\n")[0].endswith(".")


def test_errors_say_given_wanted_and_what_to_do():
    error = AxleError("backlash", given="-3 thou", wanted="0 or more", do="Read it again.")
    assert str(error) == "backlash: -3 thou was given; 0 or more is wanted. Read it again."
    assert str(AxleError("x", given="a", wanted="b")) == "x: a was given; b is wanted."
