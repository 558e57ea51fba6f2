"""A name says what a thing is: a function is no bare participle, and no two classes below each other share a name."""

import ast
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).parents[2] / "tinfork"
BARE = {"found", "own", "one", "told", "heard", "served", "kept", "opened"}
"""They meant something else in each place."""


def definitions(kind):
    """Each class or function of one of ours, outside of others, or of a class; and where."""
    for path in sorted(ROOT.rglob("*.py")):
        if "migrations" in path.parts or "node_modules" in path.parts:
            continue
        tree = ast.parse(path.read_text())
        for node in (*tree.body, *(own for top in tree.body if isinstance(top, ast.ClassDef) for own in top.body)):
            if isinstance(node, kind):
                yield node.name, f"{path.relative_to(ROOT)}:{node.lineno}"


def test_no_function_is_called_by_a_bare_participle():
    assert [(name, place) for name, place in definitions(ast.FunctionDef) if name.strip("_") in BARE] == []


def test_no_two_values_of_the_engine_share_a_name():
    names = [(name, place) for name, place in definitions(ast.ClassDef) if place.startswith("core/")]
    once = Counter(name for name, _ in names)
    assert [(name, place) for name, place in names if once[name] > 1 and not name.startswith("_")] == []
