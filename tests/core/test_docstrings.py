"""The core says of every public function what it takes, and in which unit."""

import ast
from pathlib import Path

import ondine.core

FOLDER = Path(ondine.core.__file__).parent
UNITS = ("_s", "_m", "_m_s", "_m3", "_m3_s", "_kg_m3", "_pa_s", "_n_m", "_c")
EMPIRICAL = (
    "physics/liquid.py",
    "physics/flight.py",
    "physics/splash.py",
    "physics/meeting.py",
    "light/flash.py",
    "light/blur.py",
    "light/depth.py",
    "light/lens.py",
    "physics/drop.py",
)


def public_functions(path: Path) -> list[ast.FunctionDef]:
    tree = ast.parse(path.read_text())
    return [n for n in tree.body if isinstance(n, ast.FunctionDef) and not n.name.startswith("_")]


def test_every_public_function_and_class_says_what_it_is():
    for path in FOLDER.rglob("*.py"):
        tree = ast.parse(path.read_text())
        assert ast.get_docstring(tree), path.name
        classes = [n for n in tree.body if isinstance(n, ast.ClassDef)]
        for node in [*tree.body, *(member for c in classes for member in c.body)]:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), f"{path.name}: {node.name}"


def test_physical_functions_name_their_units():
    for name in EMPIRICAL:
        for function in public_functions(FOLDER / name):
            text = ast.get_docstring(function) or ""
            takes = [a.arg for a in function.args.args]
            if any(arg.endswith(UNITS) for arg in takes):
                assert "[" in text and "]" in text, f"{name}: {function.name} names no unit"


def test_the_core_touches_no_clock_no_file_and_no_unseeded_chance():
    for path in FOLDER.rglob("*.py"):
        text = path.read_text()
        for forbidden in ("import time", "datetime", " open(", "pathlib", "import random", "default_rng()"):
            assert forbidden not in text, f"{path.name}: {forbidden}"
