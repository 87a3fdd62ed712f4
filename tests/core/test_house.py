"""The shape of the code: how long its parts may be, and which way imports go."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import grimp
import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

import rushweed

SOURCE = Path(rushweed.__file__).parent
READERS = SOURCE / "assets"  # what is shipped to others is one file each
LINES, METHODS, FUNCTION, PARAMETERS = 400, 25, 60, 6


def modules() -> Iterator[tuple[str, str]]:
    for path in sorted(SOURCE.rglob("*.py")):
        if not path.is_relative_to(READERS):
            yield path.relative_to(SOURCE).as_posix(), path.read_text()


def test_no_module_class_or_function_is_too_long() -> None:
    long = []
    for name, text in modules():
        if text.count("\n") > LINES:
            long.append(name)
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.ClassDef):
                if sum(isinstance(part, ast.FunctionDef) for part in node.body) > METHODS:
                    long.append(f"{name} {node.name}")
            elif isinstance(node, ast.FunctionDef) and node.end_lineno is not None:
                if node.end_lineno - node.lineno >= FUNCTION:
                    long.append(f"{name} {node.name}")
    assert not long


def test_no_function_has_too_many_parameters() -> None:
    many = []
    for name, text in modules():
        for node in ast.walk(ast.parse(text)):
            if not isinstance(node, ast.FunctionDef):
                continue
            parameters = [a.arg for a in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)]
            if len([p for p in parameters if p not in ("self", "cls")]) > PARAMETERS:
                many.append(f"{name} {node.name}")
    assert not many


def test_no_modules_import_each_other_in_a_ring() -> None:
    graph = grimp.build_graph("rushweed")  # those for types only too
    names = sorted(graph.modules)
    number = {name: n for n, name in enumerate(names)}
    edges = [(number[a], number[b]) for a in names for b in graph.find_modules_directly_imported_by(a)]
    rows, columns = np.array(edges).T
    links = coo_array((np.ones(len(rows)), (rows, columns)), (len(names), len(names)))
    _count, label = connected_components(links, connection="strong")
    rings = [n for n in range(len(names)) if np.count_nonzero(label == label[n]) > 1]
    assert not [names[n] for n in rings]
