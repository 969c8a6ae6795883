"""The demo: write the data, then run the commands on it and show them."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import integrum as ig
from integrum.cli import show
from integrum.cli.asking import QUESTION, ask
from integrum.cli.screen import out
from integrum.demo.lakes import write_demo
from integrum.problems.problem import near

SCHEME = "{lake}_{month}_{serial}.csv"
_CHECKS = """
[[checks]]
unique = ["lake", "date_time"]

[[checks]]
name = "every lake, every month"
complete = ["lake", "month"]

[[checks]]
name = "plausible temperatures"
column = "water_temp"
range = [0, 22]
severity = "warning"
"""


def tour(folder: Path) -> None:
    """Write the demo data to a folder, then survey, draft and assemble its loggers."""
    write_demo(folder)
    plan, table = folder / "loggers.toml", folder / "loggers.csv"
    loggers = ig.Sources(str(folder / "loggers"), ids=SCHEME)
    where = f'{folder / "loggers"} --ids "{SCHEME}"'
    out.line(f"Data of invented lakes is in {folder}. Every step on its loggers:\n")
    _command(f"integrum survey {where}")
    show.survey(ig.survey(loggers), False)
    _command(f"integrum draft {where} --plan {plan}")
    made = ig.draft(loggers)
    made.save(plan)
    show.draft(made, plan)
    _command(f"integrum assemble {plan} --to {table}")
    show.outcome(ig.assemble(plan, table), False)
    with open(table, encoding="utf-8") as file:
        head = [next(file).rstrip() for _ in range(4)]
    _command(f"head -4 {table}")
    out.line("\n".join(head))
    out.line("\nChecks go into the plan. They find two missing months and one value that is too high:")
    with open(plan, "a", encoding="utf-8") as file:
        file.write(_CHECKS)
    _command(f"tail -{len(_CHECKS.splitlines()) - 1} {plan}")
    out.line(_CHECKS.strip())
    _command(f"integrum assemble {plan} --to {table} --report")
    show.outcome(ig.assemble(plan, table), False, look=False)
    show.made_report(ig.report(table), False, False)
    out.line("\nFrom a strange value in the table back to its line in the file:")
    _command(f'integrum trace {table} --where "water_temp > 22"')
    show.trace(ig.trace(table, where="water_temp > 22"))
    lab, lab_plan = folder / "lab", folder / "lab.toml"
    out.line("\nThe laboratory has renamed its columns over the years. Some guesses need a decision:")
    _command(f"integrum draft {lab} --plan {lab_plan} --ask")
    made = ig.draft(lab)
    made.save(lab_plan)
    show.draft(made, lab_plan)
    answered = ask(made, partial(made.save, lab_plan), partial(_yes_or_stop, iter((True, False))))
    show.answers(answered, made, lab_plan)
    _settled(lab_plan, folder / "lab.csv")
    gauges, gauge_plan = folder / "gauges", folder / "gauges.toml"
    out.line("\nThe gauges were read by five observers, and each has another way of writing:")
    _command(f"integrum draft {gauges} --plan {gauge_plan}")
    made = ig.draft(gauges)
    made.save(gauge_plan)
    show.draft(made, gauge_plan)
    _settled(gauge_plan, folder / "gauges.csv")
    field, book = folder / "field", folder / "field.xlsx"
    out.line("\nThe field visits are workbooks with a sheet for each month. They become one workbook:")
    _command(f"integrum assemble {field} --to {book}")
    show.outcome(ig.assemble(field, book), False, look=False)
    out.line(("\nNow you:", "bold"))
    if shutil.which("integrum") is None:
        out.line(f"  {_activation()}")
    out.line(f"  integrum survey {field}")
    out.line(f"  integrum draft --plan {lab_plan} --update --page")
    out.line(f"  integrum draft {folder / 'plankton'} --plan {folder / 'plankton.toml'}")
    out.line(f"  integrum assemble {folder / 'visits'} --to {folder / 'visits.parquet'}")
    out.line(f'  integrum assemble {plan} --to "{folder}/by-lake/{{lake}}.csv"')
    out.line(("and a month later:", "bold"))
    out.line(f"  integrum demo {folder} --next-month")
    out.line(f"  integrum changes {plan}")
    out.line(f"  integrum assemble {plan} --to {table}")
    out.line(f"  integrum verify {table} --again")


def _settled(plan: Path, table: Path) -> None:
    """Take the sure guesses of a plan, and assemble."""
    _command(f"integrum draft --plan {plan} --update --accept 0.9")
    made = ig.draft([], onto=plan)
    accepted = made.accept(0.9)
    made.save(plan)
    show.draft(made, plan, len(accepted))
    _command(f"integrum assemble {plan} --to {table}")
    show.outcome(ig.assemble(plan, table), False, look=False)


def _activation() -> str:
    """The command after which a shell finds ``integrum``, where it does not find it yet."""
    place = near(Path(sys.executable).parent)
    return f"{place}\\activate" if os.name == "nt" else f"source {place}/activate"


def _yes_or_stop(answers: Iterator[bool]) -> str:
    """Answer for the reader: yes at first, then stop."""
    said = "yes" if next(answers, False) else "stop"
    out.line(f"{QUESTION}{said}")
    return said


def _command(line: str) -> None:
    out.line(("\n$ ", "bold green"), (line, "bold"))
