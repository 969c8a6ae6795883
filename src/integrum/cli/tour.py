"""The demo: write the data, then run the commands on it and show them."""

from __future__ import annotations

from pathlib import Path

import integrum as ig
from integrum.cli import show
from integrum.cli.terminal import out
from integrum.demo.lakes import write_demo


def tour(folder: Path) -> None:
    """Write the demo data to a folder, then survey, draft and assemble its loggers."""
    write_demo(folder)
    loggers, plan, table = folder / "loggers", folder / "loggers.toml", folder / "loggers.csv"
    out.print(
        f"The data of some invented lakes is in {folder}. The whole way through its loggers:\n", markup=False
    )
    _command(f"integrum survey {loggers}")
    show.survey(ig.survey(loggers), False)
    _command(f"integrum draft {loggers} --plan {plan}")
    made = ig.draft(loggers)
    made.save(plan)
    show.draft(made, plan)
    _command(f"integrum assemble {plan} --to {table}")
    show.outcome(ig.assemble(plan, table), False)
    with open(table, encoding="utf-8") as file:
        head = [next(file).rstrip() for _ in range(4)]
    _command(f"head -4 {table}")
    out.print("\n".join(head), markup=False)
    out.print("\nYours to try:", style="bold")
    out.print(f"  integrum survey {folder / 'lab'}", markup=False)
    out.print(f"  integrum assemble {folder / 'visits'} --to {folder / 'visits.parquet'}", markup=False)


def _command(line: str) -> None:
    out.print(f"\n[bold green]$[/] [bold]{line}[/]")
