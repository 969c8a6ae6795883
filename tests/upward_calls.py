"""Which files call files above them on the way from `assemble` to the table: python tests/upward_calls.py prints them.

A file stands above all that it imports. A call upward is a function that was handed down, or a method of such an object.
Generators are not counted: what they hand up was asked for from there.
"""

import inspect
import sys
import tempfile
import threading
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from types import CodeType, FrameType
from typing import Any

import integrum as ig

BASE = Path(ig.__file__).parent
# these only pass a call on
_THROUGH = "plan/wrong_words.py"


def upward_calls(needed: Mapping[str, set[str]]) -> dict[tuple[str, str], tuple[str, str]]:
    """By calling and called file the functions, of a run of two small files; `needed`: by file those that it imports."""

    @cache
    def floor(name: str) -> int:
        return 1 + max(map(floor, needed[name]), default=-1)

    found: dict[tuple[str, str], tuple[str, str]] = {}
    is_on = True

    def name_of(code: CodeType) -> str:
        path = Path(code.co_filename)
        if not path.is_relative_to(BASE) or path == BASE / _THROUGH:
            return ""
        return ".".join(path.relative_to(BASE).with_suffix("").parts)

    def note(frame: FrameType, event: str, _: Any) -> None:
        nonlocal is_on
        name = name_of(frame.f_code) if is_on and event == "call" else ""
        if not name or frame.f_code.co_flags & inspect.CO_GENERATOR:
            return
        if (name, frame.f_code.co_name) == ("publish.destination", "publish"):  # the table is made
            is_on = False
            return
        caller = frame.f_back
        while caller is not None and not name_of(caller.f_code):
            caller = caller.f_back
        if caller is not None and floor(name_of(caller.f_code)) < floor(name):
            found[name_of(caller.f_code), name] = (caller.f_code.co_name, frame.f_code.co_name)

    with tempfile.TemporaryDirectory() as folder:
        for year in (2021, 2022):
            Path(folder, f"{year}.csv").write_text(f"day,depth\n{year}-05-01,3.20\n{year}-05-02,3.10\n")
        plan = ig.Plan(folder, [ig.Column("day", "date"), ig.Column("depth", "number")])
        ig.assemble(plan, to=Path(folder, "first", "o.csv"))
        threading.setprofile(note)
        sys.setprofile(note)
        try:
            ig.assemble(plan, to=Path(folder, "out", "o.csv"))
        finally:
            sys.setprofile(None)
            threading.setprofile(None)  # type: ignore[arg-type]
    return found


if __name__ == "__main__":
    from test_house import _needed

    for files, functions in sorted(upward_calls(_needed()).items()):
        print(" -> ".join(files), " -> ".join(functions))
