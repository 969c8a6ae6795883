"""Surveys, drafts and outcomes on the terminal; plain and stable text when piped."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from rich import box
from rich.markup import escape
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from integrum.cli.terminal import STYLES, err, is_terminal, out
from integrum.drafting.draft import Draft
from integrum.naming.coverage import MOST_ACROSS, MOST_DOWN, Coverage
from integrum.problems import Problem, clipped
from integrum.recording.outcome import Outcome, summary
from integrum.surveying.findings import Survey
from integrum.surveying.look import OneSource
from integrum.surveying.words import counted_problems, difference, headline, layout_words, shown_sources

_MOST_PROBLEMS = 12
_OF_MANY = ("unlisted-header", "passed-over")


def survey(seen: Survey, as_json: bool) -> None:
    """Print a survey to standard output."""
    if as_json:
        out.print(_json(_survey_data(seen)), markup=False)
    elif is_terminal(out):
        _survey_tables(seen)
    else:
        out.print(str(seen), markup=False)


def one_source(seen: OneSource) -> None:
    """Print the rows of one source with the part that each was taken for."""
    if not is_terminal(out):
        out.print(f"\n{seen}", markup=False)
        return
    table = Table(box=box.SIMPLE_HEAD)
    table.add_column("row", justify="right")
    table.add_column("part")
    table.add_column("text", no_wrap=True)
    for row in seen.shown():
        if isinstance(row, int):
            table.add_row("", "", Text(f"… {row:,} more rows of data", style="dim"))
        else:
            style = (
                "" if row.part == "data" else STYLES["warning"] if row.part == "set aside" else STYLES["note"]
            )
            table.add_row(f"{row.row:,}", Text(row.part, style=style), Text(clipped(row.text, 110)))
    counts = ", ".join(f"{count:,} {part}" for part, count in seen.counts().items())
    out.print(f"\n{escape(seen.source)}: {counts}", style="bold")
    out.print(table, soft_wrap=False)


def draft(made: Draft, path: Path | None) -> None:
    """Print a drafted plan, or say where it was written."""
    if path is None:
        out.print(str(made), end="", markup=False)
        return
    types: dict[str, int] = {}
    for column in made.plan.columns:
        types[column.type] = types.get(column.type, 0) + 1
    counted = ", ".join(f"{count} {name}" for name, count in types.items())
    out.print(f"plan: {path}", markup=False)
    out.print(f"{len(made.plan.columns)} columns: {counted}", markup=False)
    for column in made.plan.columns:
        for line in made.remarks.get(("columns", column.name), ()):
            if not line.startswith(("also written", "absent")):
                out.print(Text.assemble("  ", (column.name, "bold"), f": {line}"))
    out.print(f"next: read and edit it, then  integrum assemble {path} --to TABLE.csv", markup=False)


def outcome(made: Outcome, as_json: bool) -> None:
    """Print the summary of a run to standard error, so that a table on standard output stays clean."""
    if as_json:
        out.print(_json(_outcome_data(made)), markup=False)
        return
    where = err if made.output is None and not made.parts else out
    lines = summary(made)
    where.print(Text(lines[0], style="bold"))
    for line in lines[1:]:
        key, colon, rest = line.partition(":")
        plain = line.startswith("  ") or not colon
        where.print(Text(line) if plain else Text.assemble((key + colon, "dim"), rest))
        if key == "problems":
            _problems(made.problems, where)


def _problems(problems: tuple[Problem, ...], where: Any) -> None:
    order = list(STYLES)
    alike: dict[tuple[str, ...], list[Problem]] = {}
    for problem in sorted(problems, key=lambda problem: order.index(problem.severity)):
        source = "" if problem.code in _OF_MANY else problem.source
        alike.setdefault((problem.code, problem.column, problem.message, source), []).append(problem)
    ranked = list(alike.values())
    for first, *others in ranked[:_MOST_PROBLEMS]:
        severity, rest = str(first).split(":", 1)
        if others:
            rest += f" (and in {len(others):,} more sources)"
        line = Text.assemble((severity, STYLES[severity]), f":{rest}")
        if is_terminal(where):
            where.print(Padding(line, (0, 0, 0, 2)), soft_wrap=False)
        else:
            where.print(Text.assemble("  ", line))
    if len(ranked) > _MOST_PROBLEMS:
        where.print(f"  and {len(ranked) - _MOST_PROBLEMS:,} more")


def _survey_tables(seen: Survey) -> None:
    out.print(Text(f"{headline(seen)}\n", style="bold"))
    if seen.variants:
        variants = _table("Header variants")
        variants.add_column("variant", justify="right")
        variants.add_column("sources", justify="right")
        variants.add_column("which")
        variants.add_column("columns")
        for variant in seen.variants:
            which, columns = escape(shown_sources(variant)), escape(difference(variant, seen))
            variants.add_row(str(variant.number), f"{len(variant.sources):,}", which, columns)
        out.print(variants, soft_wrap=False)
    words = layout_words(seen)
    if words:
        out.print("Layouts\n", style="bold")
        for line in words:
            out.print(Padding(Text(line), (0, 0, 0, 2)), soft_wrap=False)
        out.print()
    if seen.coverage:
        _coverage(seen.coverage)
    if seen.columns:
        _columns(seen)
    out.print(f"problems: {counted_problems(seen)}")
    _problems(seen.problems, out)


def _columns(seen: Survey) -> None:
    table = _table("Columns")
    table.add_column("column", style="bold")
    table.add_column("type")
    table.add_column("values", justify="right")
    table.add_column("sources", justify="right")
    table.add_column("evidence")
    for column in seen.columns:
        table.add_row(
            escape(column.name),
            Text(column.type, style=STYLES["warning"] if column.against else ""),
            f"{column.filled:,}",
            f"{column.sources:,}",
            escape("\n".join(column.remarks)),
        )
    out.print(table, soft_wrap=False)


def _table(title: str) -> Table:
    return Table(box=box.SIMPLE_HEAD, title=escape(title), title_justify="left", title_style="bold")


def _coverage(grid: Coverage) -> None:
    table = _table(f"Sources by {grid.down} (down) and {grid.across} (across)")
    table.add_column(escape(grid.down), style="bold")
    for column in grid.columns[:MOST_ACROSS]:
        table.add_column(escape(column) or "(none)", justify="right")
    for row in grid.rows[:MOST_DOWN]:
        shown = [grid.cell(row, column) for column in grid.columns[:MOST_ACROSS]]
        styled = [Text(cell, style=STYLES["error"] if cell == "absent" else "") for cell in shown]
        table.add_row(escape(row) or "(none)", *styled)
    out.print(table, soft_wrap=False)
    if grid.cut:
        out.print(f"  {grid.cut}\n")


def _json(data: Any) -> str:
    return json.dumps(data, indent=2, ensure_ascii=False)


def _survey_data(seen: Survey) -> dict[str, Any]:
    return {
        "common_folder": str(seen.base),
        "rows": seen.rows,
        "sources": [asdict(one) for one in seen.sources],
        "variants": [asdict(variant) for variant in seen.variants],
        "columns": [asdict(column) | {"remarks": column.remarks} for column in seen.columns],
        "identifiers": {name: list(values) for name, values in seen.identifiers.items()},
        "problems": [asdict(problem) for problem in seen.problems],
    }


def _outcome_data(made: Outcome) -> dict[str, Any]:
    parts = made.parts or (made,)
    return {
        "status": made.status,
        "rows": made.rows,
        "columns": [{"name": each.name, "type": str(each.type)} for each in made.schema],
        "outputs": [
            {"output": str(one.output), "record": str(one.record), "rows": one.rows} for one in parts
        ],
        "sources": [asdict(one) for one in made.sources],
        "problems": [asdict(problem) for problem in made.problems],
    }
