"""Every small change that can be made to a module, one at a time."""

from __future__ import annotations

import ast
import copy
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

_COMPARE = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
}
_ARITHMETIC = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Mod: ast.Mult}
_CALLS = {"min": "max", "max": "min", "any": "all", "all": "any"}
_DROPPED = {"abs", "round", "sorted"}
_GROWS = 1.5


@dataclass(frozen=True)
class Mutant:
    """One change.

    :param path: file, from the project's root.
    :param line: where it is.
    :param words: what was changed.
    :param source: the whole module, changed.
    """

    path: str
    line: int
    words: str
    source: str


def mutants_of(path: Path, root: Path) -> Iterator[Mutant]:
    """Every mutant of a module; docstrings, annotations and words of errors are left alone."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    places = [node for node in _code(tree) if _changes(node)]
    for index in range(len(places)):
        for number in range(len(_changes(places[index]))):
            changed = copy.deepcopy(tree)
            node = [n for n in _code(changed) if _changes(n)][index]
            before = ast.unparse(node)[:70]
            new = _changes(node)[number]()
            _replace(changed, node, new)
            words = f"{before} -> {ast.unparse(new)[:70]}"
            source = ast.unparse(ast.fix_missing_locations(changed))
            yield Mutant(str(path.relative_to(root)), node.lineno, words, source)  # type: ignore[attr-defined]


def count_of(path: Path) -> list[tuple[int, int]]:
    """Places of a module, and which change of each: what :func:`mutant_at` makes."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    places = [node for node in _code(tree) if _changes(node)]
    return [(i, n) for i, node in enumerate(places) for n in range(len(_changes(node)))]


def mutant_at(path: Path, root: Path, index: int, number: int) -> Mutant:
    """One mutant of a module, by its place and change."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    node = [n for n in _code(tree) if _changes(n)][index]
    before, line = ast.unparse(node)[:70], node.lineno  # type: ignore[attr-defined]
    new = _changes(node)[number]()
    words = f"{before} -> {ast.unparse(new)[:70]}"
    _replace(tree, node, new)
    source = ast.unparse(ast.fix_missing_locations(tree))
    return Mutant(str(path.relative_to(root)), line, words, source)


def _code(tree: ast.AST) -> list[ast.AST]:
    """Nodes that compute; raised errors, annotations, defaults of fields and words are left out."""
    asts: list[ast.AST] = []

    def walk(node: ast.AST) -> None:
        if isinstance(node, ast.Raise | ast.Import | ast.ImportFrom | ast.JoinedStr | ast.Assert):
            return
        asts.append(node)
        for name, value in ast.iter_fields(node):
            if name in {"annotation", "returns", "decorator_list", "type_params", "bases"}:
                continue
            for child in value if isinstance(value, list) else [value]:
                if isinstance(child, ast.AST):
                    walk(child)

    walk(tree)
    return asts


def _changes(node: ast.AST) -> list:  # noqa: PLR0911 - one kind of node a line
    """What can be put in a node's place, each as a function that makes it."""
    if isinstance(node, ast.Compare) and type(node.ops[0]) in _COMPARE:
        return [
            lambda: ast.Compare(node.left, [_COMPARE[type(node.ops[0])](), *node.ops[1:]], node.comparators)
        ]
    if isinstance(node, ast.BinOp) and type(node.op) in _ARITHMETIC and not _is_text(node):
        return [lambda: ast.BinOp(node.left, _ARITHMETIC[type(node.op)](), node.right)]
    if isinstance(node, ast.BoolOp):
        other = ast.And if isinstance(node.op, ast.Or) else ast.Or
        return [lambda: ast.BoolOp(other(), node.values)]
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        return [lambda: node.operand]
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        if node.func.id in _CALLS:
            return [lambda: ast.Call(ast.Name(_CALLS[node.func.id]), node.args, node.keywords)]
        if node.func.id in _DROPPED and node.args:
            return [lambda: node.args[0]]
    if isinstance(node, ast.Constant) and isinstance(node.value, bool):
        return [lambda: ast.Constant(not node.value)]
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        return [lambda: ast.Constant(node.value * _GROWS if node.value else 1)]
    if isinstance(node, ast.IfExp):
        return [lambda: ast.IfExp(node.test, node.orelse, node.body)]
    if isinstance(node, ast.If):
        return [lambda: ast.If(ast.UnaryOp(ast.Not(), node.test), node.body, node.orelse)]
    return []


def _is_text(node: ast.BinOp) -> bool:
    return any(
        isinstance(side, ast.Constant | ast.JoinedStr)
        and not isinstance(getattr(side, "value", None), int | float)
        for side in (node.left, node.right)
    )


def _replace(tree: ast.AST, old: ast.AST, new: ast.AST) -> None:
    ast.copy_location(new, old)
    for parent in ast.walk(tree):
        for name, value in ast.iter_fields(parent):
            if value is old:
                setattr(parent, name, new)
                return
            if isinstance(value, list):
                for index, child in enumerate(value):
                    if child is old:
                        value[index] = new
                        return
