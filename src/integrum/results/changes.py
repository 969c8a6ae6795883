"""What has changed since the last run: source by source, and in the table."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from integrum.measures.items import HeaderEntry
from integrum.problems import notebook
from integrum.problems.found import Entries
from integrum.problems.problem import Problem, clipped, counted, near, visible

NEW, GONE, RENAMED, CHANGED = KINDS = ("new", "gone", "renamed", "changed")
# this many sources of a kind, and this many cells of a source, are written out
_MOST, _MOST_CELLS = 10, 3


@dataclass(frozen=True)
class CellChange:
    """A cell of the table that has another value than in the last run.

    Attributes
    ----------
    row
        The row in the source, as it is now; None where the table does not say it.
    column
        The column of the table.
    old, new
        The values, as texts; empty where the cell is.
    """

    row: int | None
    column: str
    old: str
    new: str

    def __str__(self) -> str:
        place = f'row {self.row:,}, column "{self.column}"' if self.row else f'column "{self.column}"'
        return f"{place}: {_cell(self.old)} → {_cell(self.new)}"


@dataclass(frozen=True)
class SourceChange:
    """A source that has changed since the last run.

    Attributes
    ----------
    source
        Its name; of one that is gone the name that it had.
    kind
        ``"new"``, ``"gone"``, ``"renamed"`` (the same content under another name) or ``"changed"``.
    was
        Of a renamed source the name that it had.
    rows, rows_before
        Its rows in the table, now and in the last run.
    changed, added, removed
        Rows of the table that have other values, that are new, and that are not there any more. None where the rows could
        not be compared.
    moved
        Rows that are as they were, but stand in another line of the source.
    at_end
        Whether all rows that were added follow the old ones.
    cells
        The first cells that have other values.
    header
        What is different in its header and its units, as lines.
    from_line
        Where rows could not be compared: from about which line on the source differs; 0 where that is not known.
    reason
        Why it is set aside now, if it is: the code of the problem.
    """

    source: str
    kind: str
    was: str = ""
    rows: int = 0
    rows_before: int = 0
    changed: int | None = None
    added: int | None = None
    removed: int | None = None
    moved: int = 0
    at_end: bool = False
    cells: tuple[CellChange, ...] = ()
    header: tuple[str, ...] = ()
    from_line: int = 0
    reason: str = ""

    @property
    def keeps_rows(self) -> bool:
        """Whether all of its rows in the table are unchanged."""
        if not self.rows_before:
            return True
        return self.kind == NEW or (
            self.kind == CHANGED and self.changed == 0 and self.removed == 0 and not self.moved
        )

    @property
    def said(self) -> str:
        """The change in a few words."""
        if self.kind == NEW:
            return f"set aside ({self.reason})" if self.reason else counted(self.rows, "row")
        if self.kind == GONE:
            return (
                f"had {counted(self.rows_before, 'row')}" if self.rows_before else "had no rows in the table"
            )
        if self.kind == RENAMED:
            return f"was {self.was}"
        parts = [f"set aside now ({self.reason})"] if self.reason else []
        if self.changed is None:
            parts += (
                [f"{self.rows_before:,} rows then, {self.rows:,} now"]
                if self.rows != self.rows_before
                else []
            )
            parts += [f"differs from about line {self.from_line:,} on"] if self.from_line > 1 else []
            return ", ".join(parts) or "different; its rows were not compared"
        end = " at the end" if self.at_end else ""
        parts += [f"{counted(self.changed, 'row')} changed"] if self.changed else []
        parts += [f"{counted(self.added, 'row')} added{end}"] if self.added else []
        parts += [f"{counted(self.removed, 'row')} removed"] if self.removed else []
        parts += [f"{counted(self.moved, 'row')} in another line"] if self.moved else []
        return ", ".join(parts) or "its rows in the table are as they were"


@dataclass(frozen=True)
class NewHeader(HeaderEntry):
    """A header cell that no source had in the last run.

    Attributes
    ----------
    guess, score, because
        The column of the plan that it may be another name of, how sure that is, and why; empty where there is no guess.
    """

    guess: str = ""
    score: float = 0.0
    because: str = ""

    def __str__(self) -> str:
        place = f'"{self.header}" in {self.first}' + (
            f" and {self.sources - 1:,} more" if self.sources > 1 else ""
        )
        if self.guess:
            return f'{place}: may be "{self.guess}" ({self.score:.2f}: {self.because})'
        if self.state == "matched":
            return f'{place}: column "{self.column}"'
        return f"{place}: {'in no column' if self.state == 'unlisted' else self.state}"


@dataclass(frozen=True)
class Changes:
    """What has changed since the last run.

    Attributes
    ----------
    record
        The folder of the record of that run.
    when
        When it began: ISO 8601.
    sources
        The sources that are not what they were; new, renamed and changed ones in their order, then those that are gone.
    unchanged
        How many are what they were.
    rows, rows_before
        Rows of the table, now and then.
    new_columns, lost_columns
        Columns of the table that it did not have, and that it does not have any more.
    headers
        Header cells that are new.
    missing
        What is expected and not there: problems.
    remarks
        What else is different, such as the plan.

    Examples
    --------
    >>> two = SourceChange("2022.csv", "changed", rows=4, rows_before=3, changed=1, added=1, removed=0, at_end=True)
    >>> print(Changes(Path("out/lakes-record"), "2026-11-01T09:30:00+00:00", Entries([two]), 7, 40, 39))
    since the run of 2026-11-01 09:30 UTC (out/lakes-record)
    1 source changed
      2022.csv: 1 row changed, 1 row added at the end
    7 sources unchanged
    table: 39 rows then, 40 now
    """

    record: Path
    when: str
    sources: Entries[SourceChange] = field(default_factory=lambda: Entries((), SourceChange))
    unchanged: int = 0
    rows: int = 0
    rows_before: int = 0
    new_columns: tuple[str, ...] = ()
    lost_columns: tuple[str, ...] = ()
    headers: Entries[NewHeader] = field(default_factory=lambda: Entries((), NewHeader))
    missing: Entries[Problem] = field(default_factory=lambda: Entries((), Problem))
    remarks: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        """Whether anything has changed."""
        return bool(
            self.sources
            or self.new_columns
            or self.lost_columns
            or self.remarks
            or self.rows != self.rows_before
        )

    @property
    def keeps_rows(self) -> bool:
        """Whether all rows of the last table are unchanged."""
        return not (self.new_columns or self.lost_columns) and all(one.keeps_rows for one in self.sources)

    def of(self, kind: str) -> Entries[SourceChange]:
        """The sources of one kind."""
        return Entries((one for one in self.sources if one.kind == kind), SourceChange)

    def summary(self) -> str:
        """All changes in one line.

        Examples
        --------
        >>> one = SourceChange("2023.csv", "new", rows=480)
        >>> Changes(Path("lakes-record"), "2026-11-01T09:30:00+00:00", Entries([one])).summary()
        '1 source new (+480 rows), old rows unchanged'
        """
        if not self:
            return "nothing has changed"
        parts: list[str] = []
        for kind in KINDS:
            some = self.of(kind)
            if not some:
                continue
            rows = sum(one.rows for one in some)
            before = sum(one.rows_before for one in some)
            said = counted(len(some), "source") if not parts else f"{len(some):,}"
            parts.append(f"{said} {kind}" + _in_brackets(kind, some, rows, before))
        columns = [*(f"+{name}" for name in self.new_columns), *(f"−{name}" for name in self.lost_columns)]
        parts += [f"columns {', '.join(columns)}"] if columns else []
        others = "all other rows" if any(not one.keeps_rows for one in self.sources) else "old rows"
        parts += [f"{others} unchanged"] if not columns else []
        return ", ".join(parts)

    def lines(self, most: int = _MOST) -> list[str]:
        """All changes line by line, with at most this many sources of a kind."""
        when = self.when[:16].replace("T", " ")
        lines = [f"since the run of {when} UTC ({near(self.record)})"]
        lines += self.remarks
        for kind in KINDS:
            some = self.of(kind)
            if some:
                lines.append(f"{counted(len(some), 'source')} {kind}")
                lines += [line for one in some[:most] for line in _about(one)]
                lines += [f"  and {len(some) - most:,} more"] if len(some) > most else []
        if self.unchanged:
            lines.append(f"{counted(self.unchanged, 'source')} unchanged")
        if self.headers:
            lines.append("new header cells")
            lines += [f"  {one}" for one in self.headers[:most]]
            lines += [f"  and {len(self.headers) - most:,} more"] if len(self.headers) > most else []
        if self.missing:
            lines.append("missing")
            lines += [f"  {one}" for one in self.missing[:most]]
            lines += [f"  and {len(self.missing) - most:,} more"] if len(self.missing) > most else []
        for said, names in (("new", self.new_columns), ("not there any more", self.lost_columns)):
            if names:
                lines.append(f"columns of the table that are {said}: {', '.join(names)}")
        if not self:
            lines.append("nothing has changed")
        elif self.rows == self.rows_before:
            lines.append(f"table: {counted(self.rows, 'row')}, as then")
        else:
            lines.append(f"table: {counted(self.rows_before, 'row')} then, {self.rows:,} now")
        return lines

    def to_dict(self) -> dict[str, Any]:
        """All changes as plain data, for JSON."""
        return {
            "record": str(self.record),
            "when": self.when,
            "changed": bool(self),
            "keeps_rows": self.keeps_rows,
            "sources": [asdict(one) for one in self.sources],
            "unchanged": self.unchanged,
            "rows": self.rows,
            "rows_before": self.rows_before,
            "new_columns": list(self.new_columns),
            "lost_columns": list(self.lost_columns),
            "headers": [asdict(one) for one in self.headers],
            "missing": [asdict(one) for one in self.missing],
            "remarks": list(self.remarks),
        }

    def __repr__(self) -> str:
        return f"<Changes: {self.summary()}>"

    def __str__(self) -> str:
        return visible("\n".join(self.lines()))

    def _repr_html_(self) -> str:
        rows = [(one.kind, one.source, one.said) for one in self.sources]
        return notebook.view(
            notebook.title(self.summary()),
            notebook.line(f"since the run recorded in {near(self.record)}", "dim"),
            notebook.table(["change", "source", "what"], rows) if rows else "",
        )


def _about(one: SourceChange) -> Iterator[str]:
    yield f"  {one.source}: {one.said}"
    yield from (f"    {line}" for line in one.header)
    yield from (f"    {cell}" for cell in one.cells[:_MOST_CELLS])
    if one.changed and len(one.cells) > _MOST_CELLS:
        yield "    and more"


def _in_brackets(kind: str, some: Sequence[SourceChange], rows: int, before: int) -> str:
    if kind == RENAMED:
        return ""
    if kind == NEW:
        return f" (+{counted(rows, 'row')})"
    if kind == GONE:
        return f" (−{counted(before, 'row')})" if before else ""
    if any(one.changed is None for one in some):
        return f" ({rows - before:+,} rows)" if rows != before else ""
    counts: Mapping[str, int] = {
        "changed": sum(one.changed or 0 for one in some),
        "added": sum(one.added or 0 for one in some),
        "removed": sum(one.removed or 0 for one in some),
    }
    said = [f"{counted(count, 'row')} {word}" for word, count in counts.items() if count]
    return f" ({', '.join(said)})" if said else ""


def _cell(value: str) -> str:
    return f'"{clipped(value)}"' if value else "empty"
