"""Unfold workbooks into their sheets: each sheet that is a table becomes a source."""

from __future__ import annotations

import csv
import os
from collections.abc import Collection, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import suppress
from dataclasses import dataclass, field, replace
from io import StringIO
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self

from blake3 import blake3

from integrum.plan.fields import loosened
from integrum.plan.sources import Sources
from integrum.plan.wrong_words import nearest
from integrum.problems.problem import Problem, SourceFault, first_few, unforeseen, unreadable
from integrum.sources.find import Found
from integrum.sources.patterns import has_wildcard, matches
from integrum.sources.source import BESIDE, ReadSheet, Source, read_full
from integrum.sources.suffixes import is_delimited, is_workbook
from integrum.workbooks.places import Sheet, number
from integrum.workbooks.recognise import begins_as_text
from integrum.workbooks.text import SheetText
from integrum.workbooks.workbook import ListedSheet, Workbook
from integrum.workers.pool import ahead
from integrum.workers.progress import Progress, Watch

if TYPE_CHECKING:
    from tempfile import TemporaryDirectory

_LEAST_PAIRS, _COVER = 2, 1 << 16
_START = 4096


def unfold(
    found: Found,
    groups: Sequence[Sources],
    executor: Executor,
    contents: bool = True,
    headers: Collection[str] = (),
    scratch: Path | None = None,
    watch: Watch | None = None,
    known: Books | None = None,
) -> Found:
    """Replace workbooks by their sheets.

    A sheet that is not a table is passed over with a note, a hidden one too unless it is named. A workbook
    that gives nothing stays as one source that will be set aside.

    Workbooks are recognised by what is in them; the groups of the plan say which of their sheets are wanted, and which
    columns. Without `contents` only the names of the sheets are looked at. `headers` are the header cells that the plan
    knows: a sheet of pairs without any of them is not a table. In `scratch` the sheets are kept as text until the run is
    over; without it they are read again each time. `watch` is called with the name of the workbook at hand, the bytes
    done and the bytes in all; what is still kept of the `known` workbooks, looked into before, is not read again.
    """
    wanted = frozenset(loosened(header) or header for header in headers)
    tasks = [
        _Task(
            source, groups[source.group - 1], contents, wanted, scratch, (known or {}).get(file_place(source))
        )
        for source in found.sources
        if may_be_workbook(source)
    ]
    if not tasks:
        return found
    results = _watched(ahead(executor, _unfold_one, tasks), [task.source for task in tasks], watch)
    return _put_in_place(found, groups, results)


def _watched(
    results: Iterator[_Unfolded], sources: Sequence[Source], watch: Watch | None
) -> Iterator[_Unfolded]:
    total, done = sum(source.size for source in sources), 0
    for source in sources:
        if watch:
            watch(Progress(source.name, done, total))
        yield next(results)
        done += source.size


def _put_in_place(found: Found, groups: Sequence[Sources], results: Iterator[_Unfolded]) -> Found:
    sources: list[Source] = []
    problems = list(found.problems)
    used: dict[int, set[str]] = {}
    names: dict[int, dict[str, None]] = {}
    taken: set[tuple[str, int, str]] = set()
    books: dict[tuple[object, ...], Any] = {}
    for source in found.sources:
        if not may_be_workbook(source):
            sources.append(source)
            continue
        result = next(results)
        problems += result.problems
        if result.book:
            books[file_place(source)] = result.book
        used.setdefault(source.group, set()).update(result.used)
        names.setdefault(source.group, {}).update(dict.fromkeys(result.names))
        for one in result.sources:
            place = (one.path, one.member, one.sheet_name)
            if place in taken:  # an earlier group has it
                continue
            taken.add(place)
            sources.append(one)
    for at, seen in used.items():
        problems += _unused(groups[at - 1], seen, list(names[at]))
    return replace(found, sources=tuple(sources), problems=tuple(dict.fromkeys(problems)), books=books)


def may_be_workbook(source: Source) -> bool:
    """Whether a file has to be looked into: any but those whose suffix says that they are delimited."""
    return source.sheet is None and source.fault is None and not is_delimited(source.name)


def reread(source: Source, sheet: Sheet, scratch: Path | None) -> Source:
    """Read a sheet again with other columns, or another decimal mark."""
    try:
        read = _kept(Workbook(source.whole_file()).read(sheet), scratch)
    except SourceFault as fault:
        return replace(source, sheet=sheet, read=ReadSheet(), fault=fault)
    return replace(source, sheet=sheet, size=read.size, read=read)


@dataclass
class Book:
    """What is known of a workbook."""

    sheets: tuple[ListedSheet, ...]
    is_html: bool
    content: str  # the content hash of the file
    # what the reading of its sheets gave, for each part of a sheet that was asked for
    reads: dict[Sheet, ReadSheet] = field(default_factory=dict)


# by the place and the state of the file
Books = Mapping[tuple[object, ...], Book]


def file_place(source: Source) -> tuple[object, ...]:
    """A key that identifies a file and changes when it does."""
    return source.path, source.member, source.state


def books_of(found: Found, looked_at: Sequence[Source]) -> dict[tuple[object, ...], Book]:
    """What is known of the workbooks of a search, with the parts of sheets that were looked at since."""
    books = dict(found.books)
    for source in looked_at:
        if source.sheet and source.read.kept and file_place(source) in books:
            books[file_place(source)].reads[source.sheet] = source.read
    return books


@dataclass(frozen=True)
class _Task:
    source: Source
    group: Sources
    contents: bool
    wanted: frozenset[str]
    scratch: Path | None
    book: Book | None


@dataclass
class _Unfolded:
    """The sources that a file gives, what is to be said, and the patterns for sheets that were of use."""

    sources: list[Source]
    problems: list[Problem]
    used: set[str]
    names: tuple[str, ...] = ()
    book: Book | None = None


def _unfold_one(task: _Task) -> _Unfolded:
    try:
        return _unfolded(task)
    except SourceFault as error:
        fault = error
    except OSError as error:
        fault = unreadable(error)
    except Exception as error:
        fault = unforeseen(error)
    return _Unfolded([replace(task.source, fault=fault)], [], set(task.group.sheets))


def _unfolded(task: _Task) -> _Unfolded:
    source = task.source
    if task.book is None and not _is_one(source):
        said = [_in_truth(source)] if is_workbook(source.name) else []
        return _Unfolded([source], said, set(task.group.sheets))
    opened = _Opened(source, task.scratch, task.book)
    book = opened.book
    task = replace(task, source=replace(source, workbook=book.content))
    result = _Unfolded([], [], set(), tuple(listed.name for listed in book.sheets), book)
    if book.is_html:
        result.problems.append(
            Problem.of(
                "kind-differs",
                source.name,
                message="not a workbook but an HTML page; its tables are read",
            )
        )
    passed: dict[str, list[str]] = {}
    for listed in book.sheets:
        why, one, problems = _sheet(task, opened, listed, result.used)
        result.problems += problems
        if one is None:
            passed.setdefault(why, []).append(listed.name)
        else:
            result.sources.append(one)
    if not result.sources:
        fault = SourceFault(
            "no-table",
            f"none of its sheets is read: {_reasons(passed) or 'there are none'}",
            'name the sheet that has the table, as in sheets = ["May"]',
        )
        result.sources.append(replace(source, fault=fault))
    return result


class _Opened:
    """A workbook that is opened only when needed."""

    def __init__(self, source: Source, scratch: Path | None, book: Book | None) -> None:
        self._source, self._scratch = source, scratch
        self._workbook: Workbook | None = None
        self.book = book or self._look()

    def read(self, sheet: Sheet) -> ReadSheet:
        """Read a sheet, and keep its text.

        Raises SourceFault when its part of the workbook is damaged.
        """
        known = self.book.reads.get(sheet)
        if known and (not known.kept or os.path.exists(known.kept)):
            return known
        if self._workbook is None:
            self._workbook = Workbook(self._source.whole_file())
        self.book.reads[sheet] = read = _kept(self._workbook.read(sheet), self._scratch)
        return read

    def _look(self) -> Book:
        data = self._source.whole_file()
        self._workbook = Workbook(data)
        listed = tuple(self._workbook.sheets)
        return Book(listed, self._workbook.is_html, blake3(data).hexdigest())


def _reasons(passed: Mapping[str, Sequence[str]]) -> str:
    return "; ".join(f"{first_few(names, 8)} ({why})" for why, names in passed.items())


def _sheet(
    task: _Task, opened: _Opened, listed: ListedSheet, used: set[str]
) -> tuple[str, Source | None, list[Problem]]:
    """The source of a sheet, or why it has none."""
    patterns = task.group.sheets
    wanted = [each for each in patterns if not each.startswith("!") and _fits(listed.name, each)]
    unwanted = [each for each in patterns if each.startswith("!") and _fits(listed.name, each[1:])]
    used.update(wanted, unwanted)
    name = f"{task.source.name}/{listed.name}"
    if unwanted or (not wanted and not all(each.startswith("!") for each in patterns)):
        return "not wanted by the plan", None, []
    named = any(not has_wildcard(each) for each in wanted)
    if listed.hidden and not named:
        hint = f'to read it, name it in the plan: sheets = ["{listed.name}"]'
        return "hidden", None, [_passed_over(name, "skipped: hidden sheet", hint)]
    if not listed.holds_cells:
        return "no cells", None, [_passed_over(name, "skipped: a chart or the like, not a table")]
    layout = task.group.possible_layouts[0]
    sheet = Sheet(
        listed.name, number(layout.first_column) or 1, number(layout.last_column), layout.decimal_mark
    )
    source = replace(task.source, name=name, sheet=sheet)
    if not task.contents:
        return "", source, []
    try:
        read = opened.read(sheet)
    except SourceFault as fault:
        return "", replace(source, fault=fault), []
    if not _is_table(task, replace(source, read=read)) and not (named and read.size):
        what = "empty sheet" if not read.size else "sheet without a table"
        hint = "" if not read.size else f'to read it, name it in the plan: sheets = ["{listed.name}"]'
        return what, None, [_passed_over(name, f"skipped: {what}", hint)]
    problems = [replace(problem, source=name) for problem in read.problems]
    return "", replace(source, size=read.size, read=read), problems


def _is_table(task: _Task, source: Source) -> bool:
    """Whether a sheet has a table: a wide row, or pairs that are more than the entries of a cover."""
    if source.read.wide:
        return True
    if source.read.pairs < _LEAST_PAIRS:
        return False
    if not task.wanted or not task.group.possible_layouts[0].has_header:
        return True
    with source.open() as file:
        text = file.read(_COVER).decode("utf-8", "replace")
    cells = (cell for row in csv.reader(StringIO(text)) for cell in row)
    return any(
        (loosened(cell) or cell) in task.wanted for cell in cells if cell and not cell.rstrip().endswith(":")
    )


def _kept(read: SheetText, scratch: Path | None) -> ReadSheet:
    """Keep the text of a sheet, and say where."""
    kept = ""
    if scratch:
        place = scratch / f"{os.getpid()}-{os.urandom(16).hex()}.csv"
        try:
            place.write_bytes(read.text)
            if read.beside:
                Path(f"{place}{BESIDE}").write_bytes(read.beside)
            kept = str(place)
        except OSError:  # no room, or no such folder where the worker is
            with suppress(OSError):
                place.unlink(missing_ok=True)
    return ReadSheet(
        kept,
        len(read.text),
        read.pairs,
        read.wide,
        read.last_rows,
        read.merged,
        read.problems,
        len(read.beside),
    )


def _fits(name: str, pattern: str) -> bool:
    return name.casefold() == pattern.casefold() or matches(name, pattern)


def _is_one(source: Source) -> bool:
    """Whether a file is a workbook, or a page with tables, by how it begins."""
    with source.open_file() as file:
        start = read_full(file.read, _START)
    return not begins_as_text(start)


def _in_truth(source: Source) -> Problem:
    return Problem.of(
        "kind-differs",
        source.name,
        message="not a workbook but delimited text; it is read as text",
        hint="give it the suffix .csv",
    )


def _passed_over(name: str, message: str, hint: str = "") -> Problem:
    return Problem.of("passed-over", name, message=message, hint=hint)


def _unused(group: Sources, used: set[str], names: Sequence[str]) -> Iterator[Problem]:
    for pattern in group.sheets:
        if pattern not in used:
            yield Problem.of(
                "sheets-unmatched",
                group.group,
                raw=pattern,
                message=f"no sheet in {', '.join(group.find)} has this name{nearest(pattern, names)}",
                hint=f"the sheets are: {', '.join(names[:12])}",
            )


class Scratch:
    """A temporary folder that is made at first use and removed at the end."""

    def __init__(self) -> None:
        self._made: TemporaryDirectory[str] | None = None

    def __enter__(self) -> Self:
        return self

    @property
    def folder(self) -> Path:
        """The folder."""
        if self._made is None:
            from tempfile import TemporaryDirectory

            self._made = TemporaryDirectory(prefix="integrum-", ignore_cleanup_errors=True)
        return Path(self._made.name)

    def folder_for(self, found: Found) -> Path | None:
        """The folder, if there are sheets among some sources; else None."""
        return self.folder if any(source.sheet for source in found.sources) else None

    def __exit__(self, *error: object) -> None:
        if self._made is not None:
            self._made.cleanup()
