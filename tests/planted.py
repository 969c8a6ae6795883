"""A part of the demo data with faults planted in it: what is found besides what was there, and the table that is due."""

import io
import zipfile
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import openpyxl

import integrum as ig

Key = tuple[str, str, int]
Found = tuple[str, str, int | None, str]


class Bed:
    """One folder of the demo data, and a plan that reads it without fault.

    Parameters
    ----------
    folder
        The folder.
    plan
        The plan.
    """

    def __init__(self, folder: Path, plan: ig.Plan) -> None:
        self.folder, self.plan = folder, plan
        clean = ig.assemble(plan)
        self.names = [name for name in clean.schema.names if name not in ("source", "sheet", "source_row")]
        self.before = Counter(map(found, clean.problems))
        self.expected = table_of(clean)
        self.due: list[Found] = []

    # ---- faults in files that are there

    def says(self, code: str, source: str = "", row: int | None = None, column: str = "") -> None:
        """Note what has to be found."""
        self.due.append((code, source, row, column))

    def lines(self, source: str, change: Callable[[list[str]], None]) -> None:
        """Change the lines of a text."""
        path = self.folder / source
        lines = path.read_bytes().decode().split("\n")
        change(lines)
        path.write_bytes("\n".join(lines).encode())

    def cell(
        self, source: str, row: int, place: int, text: str, code: str, column: str, value: Any = None
    ) -> None:
        """Write something else into a cell; the table has `value` there."""

        def change(lines: list[str]) -> None:
            cells = lines[row - 1].split(",")
            cells[place] = text
            lines[row - 1] = ",".join(cells)

        self.lines(source, change)
        self.expected[source, "", row][column] = value
        if code:
            self.says(code, source, row, column)

    def row(self, source: str, row: int, text: str, code: str) -> None:
        """Write something else into a line, which keeps its row out of the table."""
        self.lines(source, lambda lines: lines.__setitem__(row - 1, text))
        del self.expected[source, "", row]
        self.says(code, source, row)

    # ---- new files

    def new(
        self, source: str, content: str | bytes, *codes: str, rows: dict[int, dict[str, Any]] | None = None
    ) -> None:
        """A new file, with the rows that the table has of it by their numbers."""
        path = self.folder / source
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        for row, cells in (rows or {}).items():
            self.expected[source, "", row] = dict.fromkeys(self.names) | cells
        for code in codes:
            self.says(code, source)

    def gone(self, source: str) -> None:
        """A source is no longer in the table."""
        self.expected = {key: row for key, row in self.expected.items() if key[0] != source}

    def change(self, **keys: Any) -> None:
        """Change the plan."""
        self.plan = replace(self.plan, **keys)

    def group(self, **keys: Any) -> None:
        """Change the first group of the plan."""
        first, *others = self.plan.sources
        self.plan = replace(self.plan, sources=[replace(first, **keys), *others])

    def column(self, name: str, **keys: Any) -> None:
        """Change a column of the plan."""
        columns = [replace(one, **keys) if one.name == name else one for one in self.plan.columns]
        self.plan = replace(self.plan, columns=columns)

    # ---- the proof

    def check(self, to: Path) -> ig.Outcome:
        """Run the plan: what was found besides what was found before is what is due, and so is the table."""
        outcome = ig.assemble(self.plan, to)
        new = Counter(map(found, outcome.problems)) - self.before
        due = Counter(self.due)
        assert not due - new, ("not found", dict(due - new), "found instead", dict(new - due))
        assert not new - due, ("found, but not planted", dict(new - due))
        table = table_of(outcome)
        assert set(table) == set(self.expected)
        for key, row in self.expected.items():
            assert table[key] == row, key
        for one in outcome.sources:
            assert one.ledger.adds_up, one.source
        assert sum(one.table_rows for one in outcome.sources) == outcome.rows == len(table)
        return outcome


def found(one: Any) -> Found:
    """Where a problem is."""
    return one.code, one.source, one.row, one.column


def table_of(outcome: ig.Outcome) -> dict[Key, dict[str, Any]]:
    """The rows of a table by where they are from; in wide sources by their first columns, too."""
    rows: dict[Key, dict[str, Any]] = {}
    for row in outcome.table.to_pylist():
        key = (row.pop("source"), row.pop("sheet", None) or "", row.pop("source_row"))
        assert key not in rows
        rows[key] = row
    return rows


def zipped(*members: tuple[str, str]) -> bytes:
    """An archive; of two members with the same name both are in it."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        for name, text in members:
            archive.writestr(zipfile.ZipInfo(name), text)
    return file.getvalue()


def workbook(path: Path, change: Callable[[Any], None]) -> None:
    """Change a workbook, with the values of its formulas."""
    book = openpyxl.load_workbook(path, data_only=True)
    change(book)
    book.save(path)


def joined(lines: Sequence[str]) -> str:
    """Lines as a text."""
    return "\n".join(lines) + "\n"
