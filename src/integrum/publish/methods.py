"""Words for a paper: what was done to the sources of a table, in plain sentences, from its record alone."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import PurePosixPath

from integrum.intake.ledger import SourceSummary
from integrum.measures.result import Result
from integrum.plan.plan import Plan
from integrum.plan.scheme import Schemes
from integrum.plan.wide import Wide
from integrum.problems.codes import CODES
from integrum.problems.lost import Lost
from integrum.problems.problem import clipped, counted, visible
from integrum.reading.parts import COUNTED, Part
from integrum.record.run_file import RunFile
from integrum.sources.packing import PACKED
from integrum.values.notation import AS_WRITTEN, ORDER_WORDS

# this many things of one kind are named in a sentence
_NAMED = 8
_UNICODE = ("", "utf-8", "utf-8-sig")
_FACTS = {
    "folder": "the names of folders",
    "name": "the names of the files",
    "sheet": "the names of sheets",
    "modified": "the times at which the files were last changed",
}


@dataclass(frozen=True)
class _Told:
    """What the sentences are made of."""

    result: Result
    plan: Plan
    run: RunFile
    seal: str
    tables: Sequence[str]  # the names of the tables

    @cached_property
    def lost(self) -> Lost:
        return self.result.lost

    @cached_property
    def assembled(self) -> list[SourceSummary]:
        return [one for one in self.result.sources if one.is_assembled]

    @cached_property
    def aside(self) -> list[SourceSummary]:
        return [one for one in self.result.sources if not one.is_assembled]

    @cached_property
    def names(self) -> frozenset[str]:
        return frozenset(self.run.column_names)


def methods_of(result: Result, plan: Plan, run: RunFile, seal: str, tables: Sequence[str]) -> str:
    """The section "Methods" of a paper, as far as the table is concerned: two paragraphs.

    Parameters
    ----------
    result
        What the run established.
    run
        What it says of itself.
    tables
        The names of the tables.

    Returns
    -------
    str
        Two lines, with an empty one between them.
    """
    told = _Told(result, plan, run, seal, tables)
    paragraphs = (
        " ".join(sentence for make in some for sentence in make(told)) for some in (_DONE, _KEPT_OUT)
    )
    return visible("\n\n".join(paragraphs)) + "\n"


def _made(told: _Told) -> Iterator[str]:
    assembled, found = told.assembled, len(told.result.sources)
    of = "" if len(assembled) == found else f"{len(assembled):,} of "
    columns = counted(len(told.run.columns), "column")
    yield (
        f"A table of {counted(told.run.rows, 'row')} and {columns} was made from {of}{counted(found, 'source')}: "
        f"{_listed(_kinds(assembled))}."
    )


def _kinds(sources: Sequence[SourceSummary]) -> list[str]:
    """The sources by kind of file."""
    sheets = [one for one in sources if one.sheet]
    files = Counter(_kind(one.source) for one in sources if not one.sheet)
    said = [counted(count, kind) for kind, count in sorted(files.items(), key=lambda one: (-one[1], one[0]))]
    if sheets:
        said.append(
            f"{counted(len(sheets), 'sheet')} of {counted(len({one.file for one in sheets}), 'workbook')}"
        )
    return said


def _kind(name: str) -> str:
    path = PurePosixPath(name)
    suffix = path.suffix.lower()
    if suffix in PACKED:
        suffix = PurePosixPath(path.stem).suffix.lower() + suffix
    return f"{suffix} file" if suffix else "file without a suffix"


def _origin(told: _Told) -> Iterator[str]:
    own = told.plan.provenance
    names = [
        name for name in (own.source, own.sheet, own.source_row) if name is not False and name in told.names
    ]
    if names:
        yield f"Each row says where it is from ({_columns_named(names)})."


def _facts(told: _Told) -> Iterator[str]:
    origins: dict[str, set[str]] = {}
    groups = {one.group for one in told.assembled}
    for number, group in enumerate(told.plan.sources, 1):
        if number not in groups:
            continue
        for name in Schemes(group.schemes).names if group.schemes else ():
            origins.setdefault(name, set()).add("the names of files and folders")
        for name in group.constants:
            origins.setdefault(name, set()).add("the plan")
        for name, fact in group.facts.items():
            origins.setdefault(name, set()).add(_FACTS[fact])
        for layout in (group.layout, *group.layouts):
            for name in layout.capture:
                origins.setdefault(name, set()).add("lines above the header")
    by_origin: dict[str, list[str]] = {}
    for name in told.run.column_names:
        if name in origins:
            by_origin.setdefault(_listed(sorted(origins[name])), []).append(name)
    for origin, names in by_origin.items():
        stand = "was" if len(names) == 1 else "were"
        yield f"{_columns_named(names, first=True)} {stand} filled from {origin}."


def _headers(told: _Told) -> Iterator[str]:
    variants = {one.variant for one in told.assembled if one.variant}
    several = [one.column for one in told.result.columns if len(one.headers) > 1]
    if len(variants) > 1:
        yield f"The sources have {len(variants):,} different headers."
    if several:
        have = "has" if len(several) == 1 else "have"
        yield (
            f"{_columns_named(several, first=True)} {have} more than one name in the sources; "
            "the names were matched as a plan lists them."
        )


def _wide(told: _Told) -> Iterator[str]:
    wide = [one for one in told.assembled if one.rows_each > 1]
    if wide:
        kinds = [group.wide for group in told.plan.sources if group.wide is not None]
        of = _listed(_turned(kinds)) or "column"
        yield (
            f"{counted(len(wide), 'source')} with values of one kind in several columns {_are(len(wide))} turned: each "
            f"{of} has a row of its own."
        )


def _turned(kinds: Sequence[Wide]) -> list[str]:
    return list(dict.fromkeys(name for one in kinds for name in one.names if name))


def _units(told: _Told) -> Iterator[str]:
    for one in told.result.columns:
        if one.converted:
            said = [f"{unit} ({counted(count, 'source')})" for unit, count in one.converted.items()]
            yield f'Values of "{one.column}" were converted to {one.unit} from {_listed(said)}.'


def _codes(told: _Told) -> Iterator[str]:
    by_code: dict[str, dict[str, int]] = {}
    for one in told.result.columns:
        for code, count in one.missing.items():
            by_code.setdefault(code, {})[one.column] = count
    for code, counts in by_code.items():
        yield (
            f"{_quoted(code)} stands for no value in {_columns_named(list(counts))} "
            f"({counted(sum(counts.values()), 'cell')})."
        )


def _orders(told: _Told) -> Iterator[str]:
    by_order: dict[str, list[str]] = {}
    groups = [group for group in told.plan.sources if group.date_order]
    for column in told.plan.table_columns:
        if column.name not in told.names or not (column.kind.has_day or column.date_order):
            continue
        if column.date_order:
            by_order.setdefault(column.date_order, []).append(column.name)
        elif len(told.plan.sources) == len(groups) == 1:
            by_order.setdefault(groups[0].date_order, []).append(column.name)
        else:
            for group in groups:
                of = f'the group "{group.group}"' if group.group else _listed(list(map(_quoted, group.find)))
                yield f'In {of}, dates of digits in "{column.name}" are read as {ORDER_WORDS[group.date_order]}.'
        for order, places in column.date_order_in.items():
            where = _listed(list(map(_quoted, places)))
            yield f'In {where}, dates of digits in "{column.name}" are read as {ORDER_WORDS[order]}.'
    for order, names in by_order.items():
        yield f"Dates of digits in {_columns_named(names)} are read as {ORDER_WORDS[order]}."


def _zones(told: _Told) -> Iterator[str]:
    by_zone: dict[str, list[str]] = {}
    for column in told.plan.table_columns:
        if column.name in told.names and column.zone and column.zone != AS_WRITTEN:
            by_zone.setdefault(column.zone, []).append(column.name)
    for zone, names in by_zone.items():
        yield f"Times of {_columns_named(names)} are in the time zone {zone}."


def _limits(told: _Told) -> Iterator[str]:
    filled = {one.column: one.filled for one in told.result.columns}
    for column in told.plan.table_columns:
        if column.censored and (count := filled.get(column.censored, 0)):
            yield (
                f"{counted(count, 'value')} of {_quoted(column.name)} {_are_now(count)} beyond what can be measured; the "
                f"table has the limit, and its sign in {_quoted(column.censored)}."
            )


def _replaced(told: _Told) -> Iterator[str]:
    columns = [one for one in told.plan.table_columns if one.name in told.names]
    if names := [one.name for one in columns if one.values or one.swap or one.case]:
        yield f"Texts of {_columns_named(names)} are brought to one form, as the plan lists it."
    if names := [one.name for one in columns if one.percent == "share"]:
        yield f"Percentages of {_columns_named(names)} are in the table as shares."


def _joined(told: _Told) -> Iterator[str]:
    filled = {one.column: one.filled for one in told.result.columns}
    for one in told.plan.table_columns:
        if one.from_ and filled.get(one.name):
            parts = _listed(list(map(_quoted, one.from_)))
            yield f"{_columns_named([one.name], first=True)} is made of the columns {parts} of the sources."


def _written(told: _Told) -> Iterator[str]:
    layouts = [one.layout for one in told.assembled]
    if commas := sum(one.decimal_mark == "," for one in layouts):
        have = "has" if commas == 1 else "have"
        yield f"{counted(commas, 'source')} {have} decimal commas."
    encodings = Counter(one.encoding for one in layouts if one.encoding not in _UNICODE)
    for encoding, count in sorted(encodings.items(), key=lambda one: (-one[1], one[0])):
        yield f"{counted(count, 'source')} {_are_now(count)} in the encoding {encoding}."


def _own(told: _Told) -> Iterator[str]:
    if told.run.code:
        functions = [_function(one.function) for one in told.run.code]
        yield f"Values were read by {_of_authors(len(functions))}: {_listed(functions)}."


def _function(place: str) -> str:
    path, _, name = place.rpartition(":")
    return f"{name} in {PurePosixPath(path).name}"


def _of_authors(count: int) -> str:
    return "a function of the authors" if count == 1 else "functions of the authors"


def _lines(told: _Told) -> Iterator[str]:
    total = Counter[Part]()
    rows = 0
    for one in told.assembled:
        rows += one.ledger.rows
        total.update(one.ledger.counts)
    said = [f"{part.words} ({total[part]:,})" for part in COUNTED if total[part] and not part.is_data]
    others = sum(count for part, count in total.items() if not part.is_data)
    if others:
        are = "is" if others == 1 else "are"
        yield f"Of the {counted(rows, 'row')} in these sources, {others:,} {are} not data: {_listed(said)}."
    else:
        yield f"All {rows:,} rows in these sources are data."


def _sources_aside(told: _Told) -> Iterator[str]:
    aside = [one for one in told.aside if not _is_copy(one)]
    if aside:
        said = [f"{one.source} ({_meaning(one.reason)})" for one in aside]
        yield f"{counted(len(aside), 'source')} {_are_now(len(aside))} not in the table: {_listed(said)}."
    elsewhere = told.lost.sources - len(aside)
    if elsewhere > 0:
        yield f"{counted(elsewhere, 'more file')} that may hold data {_are(elsewhere)} not read."


def _copies(told: _Told) -> Iterator[str]:
    copies = [one for one in told.aside if _is_copy(one)]
    if copies:
        said = "has" if len(copies) == 1 else "have"
        yield (
            f"{counted(len(copies), 'source')} {said} the same content as an earlier one, and "
            f"{_are(len(copies))} not taken again."
        )


def _is_copy(one: SourceSummary) -> bool:
    return one.reason in CODES and CODES[one.reason].is_copy


def _meaning(code: str) -> str:
    return CODES[code].meaning if code in CODES else code


def _rows_aside(told: _Told) -> Iterator[str]:
    rows = told.lost.rows
    if rows:
        yield (
            f"{counted(rows, 'row')} that may be data {_are_now(rows)} not in the table{_by_cause(told, 'row')}."
        )


def _rows_twice(told: _Told) -> Iterator[str]:
    again = sum(one.count for one in told.result.problems if one.code == "row-again")
    if again:
        yield f"{counted(again, 'row')} that earlier sources have, too, {_are(again)} not taken again."


def _cells(told: _Told) -> Iterator[str]:
    cells, where = told.lost.cells, counted(told.lost.cell_columns, "column")
    if cells:
        yield f"{counted(cells, 'cell')} of {where} {_are(cells)} left empty{_by_cause(told, 'cell')}."


def _by_cause(told: _Told, what: str) -> str:
    """How much is lost of a kind, by its causes, as the end of a sentence."""
    causes = [one for one in told.lost.by_cause if one.what == what]
    if len(causes) == 1:
        return f" ({_meaning(causes[0].cause)})"
    return f": {_listed([f'{one.count:,} ({_meaning(one.cause)})' for one in causes])}"


def _columns(told: _Told) -> Iterator[str]:
    count = told.lost.columns
    if count:
        shown = _listed(list(map(_quoted, told.lost.names)), count)
        yield f"{counted(count, 'column')} of the sources {_are_now(count)} not in the table: {shown}."


def _unwanted(told: _Told) -> Iterator[str]:
    if names := _left_by_plan(told):
        was = "was" if len(names) == 1 else "were"
        yield f"{_columns_named(names, first=True)} of the sources {was} left out, as the plan says."


def _left_by_plan(told: _Told) -> list[str]:
    """The header cells that the plan does not want in the table."""
    states = {"left out", *(["unlisted"] if told.plan.rules.unlisted == "leave-out" else [])}
    return list(dict.fromkeys(one.header for one in told.result.headers if one.state in states))


def _identifiers(told: _Told) -> Iterator[str]:
    count, where = told.lost.identifiers, counted(told.lost.identifier_sources, "source")
    if count:
        yield f"{counted(count, 'value')} from names or lines above the header {_are(count)} left empty, in {where}."


def _absent(told: _Told) -> Iterator[str]:
    said = [f"{one.count:,} ({_meaning(one.cause)})" for one in told.lost.by_cause if one.what == "missing"]
    if said:
        yield f"Expected, but not found: {_listed(said)}."


def _whole(told: _Told) -> Iterator[str]:
    if not told.lost and not told.lost.missing:
        if _left_by_plan(told):
            yield "No other cell, no row of data and no source is missing from the table."
        else:
            yield "No source, no row of data and no cell of the sources is missing from the table."


def _checks(told: _Told) -> Iterator[str]:
    checks = told.result.checks
    failed = [one for one in checks if not one.has_passed]
    if not checks:
        return
    if not failed:
        yield f"The table passed {'the check' if len(checks) == 1 else f'all {len(checks):,} checks'} of the plan."
        return
    said = [f"{one.name} ({one.found:,} found)" for one in failed]
    yield f"The table failed {len(failed):,} of {counted(len(checks), 'check')} of the plan: {_listed(said)}."


def _software(told: _Told) -> Iterator[str]:
    run = told.run
    numpy = f" and NumPy {run.numpy}" if run.numpy else ""
    yield f"The table was made with Integrum {run.version} (Python {run.python}, pyarrow {run.pyarrow}{numpy})."


def _sealed(told: _Told) -> Iterator[str]:
    if told.seal:
        names = _listed(list(told.tables)) or "The table"
        yield f"{names} and the record of the run have the seal {told.seal}, by which they can be verified."


def _are(count: int) -> str:
    return "was" if count == 1 else "were"


def _are_now(count: int) -> str:
    return "is" if count == 1 else "are"


def _columns_named(names: Sequence[str], first: bool = False) -> str:
    word = "column" if len(names) == 1 else "columns"
    return f"{'The' if first else 'the'} {word} {_listed(list(map(_quoted, names)))}"


def _quoted(text: str) -> str:
    return f'"{clipped(text, 40)}"'


def _listed(some: Sequence[str], count: int | None = None) -> str:
    """A list in a sentence; of a long one the first items, and the number of the others.

    Examples
    --------
    >>> _listed(["a"]), _listed(["a", "b", "c"]), _listed(["a", "b"], 4)
    ('a', 'a, b and c', 'a, b and 2 more')
    """
    count = len(some) if count is None else count
    shown = list(some[:_NAMED])
    if count > len(shown):
        return f"{', '.join(shown)} and {count - len(shown):,} more"
    return shown[0] if len(shown) == 1 else f"{', '.join(shown[:-1])} and {shown[-1]}" if shown else ""


# the sentences of the two paragraphs, in their order
_DONE = (
    *(_made, _origin, _facts, _headers, _joined, _wide, _written, _units, _codes, _orders, _zones, _limits),
    *(_replaced, _own),
)
_KEPT_OUT = (
    *(
        _lines,
        _sources_aside,
        _copies,
        _rows_aside,
        _rows_twice,
        _cells,
        _columns,
        _unwanted,
        _identifiers,
        _absent,
    ),
    *(_whole, _checks, _software, _sealed),
)
