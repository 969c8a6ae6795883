"""Which layout of its group each source is read by: the one that fits it, by a rule and not by a guess."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import partial

from integrum.columns.binding import Binding, Bound, bind
from integrum.columns.matching import MatchContext
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems.problem import Problem, SourceFault, unforeseen
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_head
from integrum.reading.parsing import parse
from integrum.reading.pieces import load
from integrum.sources.patterns import places_of
from integrum.sources.source import Source
from integrum.values.arrays import texts
from integrum.values.joining import convert_joined
from integrum.values.pipeline import convert
from integrum.workers.pool import ahead

_TOGETHER = 16
# by group and places
Sights = dict[tuple[int, frozenset[str]], MatchContext]
# this many rows of data are looked at
_ROWS = 100
_BAD_ROWS = 0.5


@dataclass(frozen=True)
class Chosen:
    """The layout that was chosen for a source."""

    layout: Layout  # the layout; the first of its group where none fits
    head: Head | SourceFault  # its head, or why it has none
    problems: tuple[Problem, ...] = ()  # what is to be said about the choice


@dataclass(frozen=True)
class _Tried:
    """A source as read with one of the layouts of its group."""

    number: int
    layout: Layout
    head: Head | SourceFault
    lacks: str
    bad: int = 0
    cells: tuple[tuple[str | None, ...], ...] = ()


def choose_layouts(plan: Plan, sources: Sequence[Source], executor: Executor) -> list[Chosen]:
    """Choose a layout for each source from those of its group.

    Returns one for each source.
    """
    groups = [sources[at : at + _TOGETHER] for at in range(0, len(sources), _TOGETHER)]
    return [one for some in ahead(executor, partial(_choose_some, plan), groups) for one in some]


def _choose_some(plan: Plan, sources: Sequence[Source]) -> list[Chosen]:
    sights: Sights = {}
    return [choose(plan, source, sights) for source in sources]


def choose(plan: Plan, source: Source, sights: Sights | None = None) -> Chosen:
    """Choose the layout of one source.

    One fits when the text is valid in its encoding, the header stands where it says and has cells that the plan knows, and
    at least half of the first rows have its width. Of several that fit, the one with the fewest bad values in these rows is
    taken. If that leaves two that read the rows differently, the rules of the plan decide.

    `sights`: what was found out of the plan for sources before this one; it fills up.
    """
    layouts = [source.written(layout) for layout in plan.group(source.group).possible_layouts]
    if source.fault:
        return Chosen(layouts[0], source.fault)
    here = (source.group, places_of(plan, source))
    known = {} if sights is None else sights
    match_context = known.setdefault(here, MatchContext(plan, plan.group(source.group), here[1]))
    tried = [_try(match_context, source, layout, number) for number, layout in enumerate(layouts, 1)]
    fitting = [one for one in tried if not one.lacks]
    if not fitting:
        return Chosen(layouts[0], _none_fits(tried))
    least = min(one.bad for one in fitting)
    best = [one for one in fitting if one.bad == least]
    first, others = best[0], [one for one in best[1:] if one.cells != best[0].cells]
    if not others:
        return Chosen(first.layout, first.head)
    numbers = " and ".join(str(one.number) for one in (first, *others))
    take_first = plan.rules.several_layouts == "first"
    fault = SourceFault(
        "several-layouts-fit",
        f"layouts {numbers} of its group all fit, but read it differently"
        + (f"; layout {first.number} was used" if take_first else "; source set aside"),
        'give it a group of its own, or set several_layouts = "first" in the rules',
        severity="warning" if take_first else "error",
    )
    if take_first:
        return Chosen(first.layout, first.head, (fault.problem(source.name),))
    return Chosen(first.layout, fault)


_LONGEST_HEADER = 2_000


def _try(match_context: MatchContext, source: Source, layout: Layout, number: int) -> _Tried:
    plan = match_context.plan
    try:
        head = read_head(source, layout)
        longest = max(map(len, head.header.names))
        if layout.has_header and longest > _LONGEST_HEADER:  # as where a text is read in a wrong encoding
            said = f"row {head.header_row:,} has a cell of {longest:,} letters, too long for a header"
            return _Tried(number, layout, head, said)
        bound = bind(head.header, match_context, (head.format.decimal_mark, head.format.thousands_mark))
        lacks = _lacks(head, bound, layout, plan) or _units_lack(head, bound, layout, plan)
        if lacks:
            return _Tried(number, layout, head, lacks)
        return _read(source, layout, number, head, bound)
    except SourceFault as fault:
        return _Tried(number, layout, fault, fault.message)
    except Exception as error:
        failed = unforeseen(error)
        return _Tried(number, layout, failed, failed.message)


def _lacks(head: Head, bound: Bound, layout: Layout, plan: Plan) -> str:
    known = sum(bool(one.positions) for one in bound.bindings)
    if layout.has_header and not known and plan.columns:
        return f"no cell of row {head.header_row:,} is a column of the plan"
    if not layout.has_header:
        wanted = {header for column in plan.columns for header in column.headers}
        first = [cell for cell in head.first_cells if cell.strip()]
        if any(cell.strip() in wanted for cell in first):
            return f"row {head.first_row:,} is a header"
        if layout.header and len(head.header.names) != len(layout.header):
            return f"its rows have {len(head.header.names):,} cells, expected {len(layout.header):,}"
    return ""


def _units_lack(head: Head, bound: Bound, layout: Layout, plan: Plan) -> str:
    """What is wrong with the rows below a header that describe it; they must not have values."""
    below = head.header.rows[len(head.header.rows) - layout.rows_below :]
    for number, cells in enumerate(below):
        for column, one in zip(plan.table_columns, bound.bindings, strict=True):
            at = _cell_of(one, head) - layout.header_from_column + 1
            if column.type != "text" and 0 <= at < len(cells) and cells[at].strip():
                done = convert(texts([cells[at]]), one.conversion)
                if not len(done.bad):
                    what = "units" if layout.units_row else "a description"
                    return f"row {head.header_row + layout.header_rows + number:,} has values, not {what}"
    return ""


def _cell_of(one: Binding, head: Head) -> int:
    """The position of the first cell of a column; the width of the header where there is none."""
    return one.positions[0] if one.positions else len(head.header.names)


def _read(source: Source, layout: Layout, number: int, head: Head, bound: Bound) -> _Tried:
    """Read the first rows of a source with a layout, and count the bad values."""
    for piece in cut(source, 0, 1, head, layout, keep=True):
        rows = parse([load(piece, source, layout)], head.header, head.format)
        short = sum(one.code in _WRONG_WIDTH for one in rows.aside)
        if short > _BAD_ROWS * max(len(rows.row) + short, 1):
            return _Tried(
                number,
                layout,
                head,
                f"{short:,} of its first rows do not have {len(head.header.names):,} cells",
            )
        bad, columns = short, []
        for one in bound.bindings:
            if 0 <= (at := _cell_of(one, head)) < len(rows.columns):
                cells = [rows.columns[each].slice(0, _ROWS) for each in one.positions or (at,)]
                done = (
                    convert_joined(cells, one.conversion)[0]
                    if one.joined
                    else convert(cells[0], one.conversion)
                )
                bad += len(done.bad)
                columns.append((one.column, *done.text.to_pylist()))
        return _Tried(number, layout, head, "", bad, tuple(columns))
    return _Tried(number, layout, head, "")


_WRONG_WIDTH = ("row-too-short", "row-too-long", "text-after-quote")


def _none_fits(tried: Sequence[_Tried]) -> SourceFault:
    said = "; ".join(f"layout {one.number}: {one.lacks}" for one in tried)
    faults = {one.head.code for one in tried if isinstance(one.head, SourceFault)}
    only = (
        faults.pop() if len(faults) == 1 and all(isinstance(one.head, SourceFault) for one in tried) else ""
    )
    if only in ("empty-source", "unreadable", "not-a-table"):
        return next(one.head for one in tried if isinstance(one.head, SourceFault))
    return SourceFault(
        "no-layout-fits",
        f"none of the {len(tried):,} layouts of its group fits: {said}",
        "integrum survey FILE shows its layout; add that to the group, or give the source a group of its own",
    )
