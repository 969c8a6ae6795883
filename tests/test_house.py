"""The house: rooms, no circle of imports, imports inside functions only where they are listed, files of a readable size."""

import ast
import os
import re
import subprocess
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path

from doc_blocks import ROOT

SRC = ROOT / "src" / "integrum"
FILES = {".".join(path.relative_to(SRC).with_suffix("").parts): path for path in SRC.rglob("*.py")}
TREES = {name: ast.parse(path.read_text(encoding="utf-8")) for name, path in FILES.items()}
# these load what a call or a command needs when it is called
FACES = ("calls", "cli", "__init__", "__main__")


def _imported(tree: ast.AST) -> Iterator[str]:
    """The modules that are imported anywhere in a tree."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (each.name for each in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            subs = [f"{node.module}.{each.name}" for each in node.names]
            modules = [sub for sub in subs if sub.removeprefix("integrum.") in FILES]
            yield from modules or [node.module]


def _own(module: str) -> str | None:
    name = module.removeprefix("integrum.")
    return name if name in FILES else f"{name}.__init__" if f"{name}.__init__" in FILES else None


def _needed() -> dict[str, set[str]]:
    """By file the files of the package that it imports."""
    return {
        name: {own for module in _imported(tree) if (own := _own(module)) and own != name}
        for name, tree in TREES.items()
    }


def test_no_files_import_each_other_in_a_circle() -> None:
    """Neither at the top of a file, nor inside a function, nor for type checkers alone."""
    left = _needed()
    while free := [name for name, needed in left.items() if not needed & left.keys()]:
        for name in free:
            del left[name]
    assert sorted(left) == []


def test_few_calls_lead_upward_on_the_way_to_the_table() -> None:
    """`python tests/upward_calls.py` prints them."""
    done = subprocess.run(
        [sys.executable, str(ROOT / "tests" / "upward_calls.py")],
        capture_output=True,
        text=True,
        check=True,
        env={**os.environ, "PYTHONPATH": f"{SRC.parent}{os.pathsep}{ROOT / 'tests'}"},
    )
    assert 0 < len(done.stdout.splitlines()) <= 10, done.stdout


def test_imports_inside_functions_are_listed() -> None:
    listed = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["integrum"]["late"]
    found = {}
    for name, tree in TREES.items():
        if name.split(".")[0] in FACES:
            continue
        inside = {
            module
            for node in ast.walk(tree)
            if isinstance(node, ast.FunctionDef)
            for each in node.body
            for module in _imported(each)
        }
        if inside:
            found[name] = sorted(inside)
    assert found == listed


def test_rooms_are_told_in_contributing() -> None:
    rooms = {path.name for path in SRC.iterdir() if (path / "__init__.py").exists()}
    told = re.findall(r"^\| `(\w+)/` \|", (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8"), re.M)
    assert sorted(told) == sorted(rooms)
    layers = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"]
    assert [each for each in layers["contracts"][0]["layers"] if each in rooms] == told


def test_files_can_be_read_in_one_sitting() -> None:
    long = {name: len(path.read_text(encoding="utf-8").splitlines()) for name, path in FILES.items()}
    assert {name: lines for name, lines in long.items() if lines > 600} == {}


def test_no_place_of_this_machine_is_named() -> None:
    for path in FILES.values():
        assert str(Path.home()) not in path.read_text(encoding="utf-8")
