"""The demo: write the data, then run the commands on it and show them."""

from __future__ import annotations

from pathlib import Path

from rich.text import Text

import integrum as ig
from integrum.cli import show
from integrum.cli.terminal import out
from integrum.demo.lakes import write_demo

SCHEME = "{lake}_{month}_{serial}.csv"


def tour(folder: Path) -> None:
    """Write the demo data to a folder, then survey, draft and assemble its loggers."""
    write_demo(folder)
    plan, table = folder / "loggers.toml", folder / "loggers.csv"
    loggers = ig.Sources(str(folder / "loggers"), ids=SCHEME)
    where = f'{folder / "loggers"} --ids "{SCHEME}"'
    out.print(
        f"The data of some invented lakes is in {folder}. The whole way through its loggers:\n", markup=False
    )
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
    out.print("\n".join(head), markup=False)
    field, book = folder / "field", folder / "field.xlsx"
    out.print("\nThe field visits are workbooks, a sheet per month. From them to one workbook:", markup=False)
    _command(f"integrum assemble {field} --to {book}")
    show.outcome(ig.assemble(field, book), False)
    out.print("\nYours to try:", style="bold")
    out.print(f"  integrum survey {field}", markup=False)
    out.print(f"  integrum survey {folder / 'lab'}", markup=False)
    out.print(f"  integrum assemble {folder / 'visits'} --to {folder / 'visits.parquet'}", markup=False)
    out.print(f'  integrum assemble {plan} --to "{folder}/by-lake/{{lake}}.csv"', markup=False)


def _command(line: str) -> None:
    out.print(Text.assemble(("\n$ ", "bold green"), (line, "bold")))
