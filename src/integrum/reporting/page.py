"""The page about a run: what it says, gathered from the record, and the template filled with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from markupsafe import Markup

from integrum.columns.expectation import coverage_of
from integrum.columns.identifiers import Identified
from integrum.intake.ledger import SourceSummary, account_of
from integrum.measures.items import EndRow
from integrum.measures.measures import VALUES
from integrum.measures.tables import CODEBOOK, PLAN, REPORT
from integrum.pages.grid import ShownGroup
from integrum.pages.page import drawn, part_of_page
from integrum.pages.signed_page import write_page
from integrum.plan.plan import Plan
from integrum.problems.codes import SEVERITIES
from integrum.problems.grouped import grouped
from integrum.problems.problem import clipped, counted, number_of
from integrum.record.table import table_of
from integrum.reporting.columns_shown import ColumnCard, ColumnValues, cards_of
from integrum.reporting.figures import MOST, MOST_COLUMNS, MOST_SOURCES, ledger_figure, presence_figure
from integrum.reporting.sources_shown import SourcesShown, sources_shown
from integrum.results.read import Record, since_changed
from integrum.sources.source import Source

# this much of long lists is on the page; all of it is in the record's tables
_MOST_GROUPS, _MOST_SOURCES, _MOST_CARDS, _MOST_NAMES = 100, 6_000, 300, 40


@dataclass(frozen=True)
class Tile:
    """A number at a glance."""

    value: str
    said: str
    look: str = ""


@dataclass(frozen=True)
class ShownSource:
    """A source, as the page has it."""

    name: str
    became: str
    rows: str
    table: str
    left: str
    aside: str
    variant: str


def make_report(record: Record, find: Callable[[Plan], list[Source]], replace: bool = False) -> Path:
    """Make the page about a run, and put it into its record.

    Raises OutputError when the record is damaged, the page cannot be written, or another page is in its place.

    Parameters
    ----------
    find
        Finds the sources of a plan, for their lines and some of their values.
    replace
        Whether a page that was not made by Integrum, or was changed since, may be written over.
    """
    shown = sources_shown(record, find)
    text = drawn(
        "report.html.jinja", page=_page(record, shown), number=_number, style=part_of_page("base.css")
    )
    return write_page(record.folder / REPORT, text, replace)


def _page(record: Record, shown: SourcesShown) -> dict[str, Any]:
    sources, run, columns = record.sources, record.run, record.columns
    there = [one for one in sources if one.is_assembled]
    values = ColumnValues(
        table_of(record.folder / VALUES.file, record.is_guarded),
        {(one.file, one.sheet): number for number, one in enumerate(sources)},
    )
    assembled = np.array([number for number, one in enumerate(sources) if one.is_assembled], np.int64)
    with_values = [one.column for one in columns if len(values.rows_of(one.column))]
    groups = grouped(record.problems)
    cards: list[ColumnCard] = cards_of(
        columns[:_MOST_CARDS], values, record.by_category(), run.rows, len(there), len(sources), shown.samples
    )
    coverage = coverage_of(record.plan, [Identified(one.identifiers) for one in there])
    many = len(sources) > MOST_SOURCES
    return {
        "title": ", ".join(one.path.name for one in record.outputs[:3]) or "a table",
        "done": _done(record, there),
        "lost": str(record.lost),
        "changed": since_changed(record),
        "is_whole": not record.lost and not record.lost.missing,
        "tiles": _tiles(record, there),
        "groups": [ShownGroup.of(one) for one in groups[:_MOST_GROUPS]],
        "more_groups": max(len(groups) - _MOST_GROUPS, 0),
        "checks": record.checks,
        "law": f"{account_of(sources)}.",
        "ledger_figure": Markup(ledger_figure(sources)) if sources else "",
        "together": f"More than {MOST} sources: each bar shows several, by their numbers in sources.csv."
        if len(sources) > MOST
        else "",
        "coverage": coverage,
        "coverage_cut": "There are more; sources.csv has all of them."
        if coverage and (len(coverage.rows) > 60 or len(coverage.columns) > 30)
        else "",
        "presence_figure": Markup(
            presence_figure(
                with_values,
                len(sources),
                {name: values.presence(name) for name in with_values[:MOST_COLUMNS]},
                assembled,
            )
        )
        if with_values
        else "",
        "across": f"Sources from left to right in their order, {sources[0].source} to {sources[-1].source}."
        + (
            " Each bar shows several sources; its height is the share of them that have the column."
            if many
            else ""
        ),
        "cards": cards,
        "variants": [one for one in shown.variants if one.sources],
        "not_there": shown.said,
        "left_out": shown.left_out,
        "more_cards": max(len(columns) - _MOST_CARDS, 0),
        "names": record.names[:_MOST_NAMES],
        "more_names": max(len(record.names) - _MOST_NAMES, 0),
        "ends": _ends(record.ends),
        "sources": [_shown_source(one) for one in sources[:_MOST_SOURCES]],
        "sources_said": _sources_said(sources),
        "methods": record.methods.split("\n\n"),
        "seal": record.seal,
        "has_codebook": (record.folder / CODEBOOK).exists(),
        "plan": (record.folder / PLAN).read_text(encoding="utf-8"),
        "made_by": f"Made by Integrum {run.version} from the record {record.folder.name}.",
    }


def _done(record: Record, there: Sequence[SourceSummary]) -> str:
    """What was done, in a paragraph."""
    run, sources = record.run, record.sources
    day, _, clock = run.started.partition("T")
    names = ", ".join(one.path.name for one in record.outputs[:3])
    more = len(record.outputs) - 3
    names += f" and {more:,} more" if more > 0 else ""
    size = sum(one.size for one in sources)
    said = (
        f"On {day} at {clock[:5]} UTC Integrum read {counted(len(sources), 'source')} ({_size(size)}) "
        f"in {run.seconds:,.1f} s "
        f"and wrote {counted(run.rows, 'row')} of {counted(len(run.columns), 'column')} to {names}. "
    )
    aside = len(sources) - len(there)
    said += (
        ""
        if not aside
        else f"{counted(len(there), 'source')} {'is' if len(there) == 1 else 'are'} in the table, {aside:,} set aside."
    )
    if record.plan.provenance.source is not False and record.plan.provenance.source_row is not False:
        said += " Every row names the file and the row that it is from."
    return said


def _tiles(record: Record, there: Sequence[SourceSummary]) -> list[Tile]:
    sources, problems, checks = record.sources, record.problems, record.checks
    tiles = [
        Tile(_number(record.run.rows), "rows in the table"),
        Tile(_number(len(record.run.columns)), "columns"),
        Tile(
            f"{len(there):,} of {len(sources):,}",
            "sources in the table",
            "bad" if record.lost.sources else "good",
        ),
    ]
    aside = sum(one.ledger.set_aside for one in sources)
    tiles.append(Tile(_number(aside), "rows set aside", "odd" if record.lost.rows else "good"))
    for severity in SEVERITIES[:2]:
        count = number_of(severity, problems)
        look = {"error": "bad", "warning": "odd"}[severity] if count else "good"
        tiles.append(Tile(_number(count), severity if count == 1 else f"{severity}s", look))
    if checks:
        failed = sum(not one.has_passed for one in checks)
        tiles.append(
            Tile(f"{len(checks) - failed:,} of {len(checks):,}", "checks passed", "bad" if failed else "good")
        )
    return tiles


def _shown_source(one: SourceSummary) -> ShownSource:
    ledger = one.ledger
    left = sum(count for part, count in ledger.counts.items() if part.is_left_out)
    became = "in the table" if one.is_assembled else f"set aside ({one.reason})"
    return ShownSource(
        one.source,
        became,
        _number(ledger.rows),
        _number(one.table_rows),
        _number(left),
        _number(ledger.set_aside),
        str(one.variant or ""),
    )


def _sources_said(sources: Sequence[SourceSummary]) -> str:
    said = counted(len(sources), "source")
    return (
        said if len(sources) <= _MOST_SOURCES else f"{said}, the first {_MOST_SOURCES:,}; sources.csv has all"
    )


def _ends(ends: Sequence[EndRow]) -> list[EndRow]:
    """The ends of the first output, with cells that fit."""
    first = next((one.output for one in ends), "")
    return [
        one._replace(cells=tuple(clipped(cell, 60) for cell in one.cells))
        for one in ends
        if one.output == first
    ]


def _number(value: int) -> str:
    return f"{value:,}"


def _size(count: int) -> str:
    for unit, size in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if count >= size:
            return f"{count / size:.1f} {unit}"
    return f"{count:,} bytes"
