"""The demo: write the data, show the mess, the table that comes of it, and the way back from a value to its line."""

from __future__ import annotations

import os
import shutil
import sys
from pathlib import Path

import integrum as ig
from integrum.cli import show
from integrum.cli.screen import out
from integrum.demo.lakes import write_demo
from integrum.problems.problem import near

SCHEME = "{lake}_{month}_{serial}.csv"
# three files of one folder, the encoding of each, and how many lines of it are shown
_MESS = (
    ("ambermere/ambermere_2024-09_00417.csv", "utf-8", 3),
    ("brindlemere/brindlemere_2024-04_00541.csv", "cp1252", 10),
    ("vessel-lake/vessel-lake_2024-04_00479.csv", "utf-16", 3),
)
_ROWS = 4


def tour(folder: Path) -> None:
    """Write the demo data to a folder, and make one table of the loggers in it."""
    write_demo(folder)
    loggers, plan, table = folder / "loggers", folder / "loggers.toml", folder / "loggers.csv"
    out.line(f"Made-up data of lakes is in {folder}. Its loggers wrote 30 files, in several ways:")
    for name, encoding, count in _MESS:
        out.line(("\n  ", ""), (f"{name}  ({encoding})", "bold"))
        with open(loggers / name, encoding=encoding) as file:
            for _ in range(count):
                out.line(f"    {next(file).rstrip()}")
    _step("Look at all of them, and write down what is to be done: a plan, which you can edit")
    _command(f'integrum draft {loggers} --ids "{SCHEME}" --plan {plan}')
    made = ig.draft(ig.Sources(str(loggers), ids=SCHEME))
    made.save(plan)
    show.draft(made, plan)
    _step("Do what the plan says. The second line says what is lost")
    _command(f"integrum assemble {plan} --to {table}")
    show.outcome(ig.assemble(plan, table), False, look=False)
    _step("The table: every row names its file and its row there")
    _command(f"head -{_ROWS} {table}")
    with open(table, encoding="utf-8") as file:
        for _ in range(_ROWS):
            out.line(next(file).rstrip())
    _step("From a strange value back to its line")
    _command(f'integrum trace {table} --where "water_temp > 22"')
    show.trace(ig.trace(table, where="water_temp > 22"))
    _next(folder, plan, table)


def _next(folder: Path, plan: Path, table: Path) -> None:
    """What to try then."""
    lines: list[tuple[str, str]] = [
        ("look first", f"integrum survey {folder / 'lab'}"),
        ("decide on a page", f"integrum draft {folder / 'lab'} --plan {folder / 'lab.toml'} --page"),
        ("workbooks to a workbook", f"integrum assemble {folder / 'field'} --to {folder / 'field.xlsx'}"),
        ("a report", f"integrum report {table}"),
        ("a month later", f"integrum demo {folder} --next-month"),
        ("", f"integrum changes {plan}"),
    ]
    if shutil.which("integrum") is None:
        lines.insert(0, ("first", _activation()))
    out.line(("\nNow you", "bold"))
    for said, line in lines:
        out.line(f"  {said:<24}{line}")


def _activation() -> str:
    """The command after which a shell finds ``integrum``, where it does not find it yet."""
    place = near(Path(sys.executable).parent)
    return f"{place}\\activate" if os.name == "nt" else f"source {place}/activate"


def _step(said: str) -> None:
    out.line((f"\n{said}:", "bold"))


def _command(line: str) -> None:
    out.line(("$ ", "bold green"), (line, "bold"))
