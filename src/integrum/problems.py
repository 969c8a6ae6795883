"""One finding about a source, and what its severity means."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

SEVERITIES = ("error", "warning", "note")


@dataclass(frozen=True)
class Problem:
    """One finding.

    Attributes
    ----------
    severity
        ``"error"``: a source was set aside or is absent. ``"warning"``: cells, rows or columns did not
        get into the table. ``"note"``: nothing was lost, but worth knowing.
    code
        A short fixed name for this kind of finding, such as ``"bad-value"``.
    source
        The name of the source, or ``""``.
    row
        The row in the source (header counted, from 1), or None. With a `count`, the first such row.
    column
        The column of the table, or the header cell, or ``""``.
    raw
        The text as it stands in the source, or ``""``. With a `count`, the first such text.
    count
        How many times this was found in this source.
    message
        What was found.
    hint
        What to do about it.

    Examples
    --------
    >>> print(Problem("warning", "bad-value", "2021.csv", 7, "depth", "n/a", 2, "not a number", "see it"))
    warning: 2021.csv, row 7, column "depth": not a number: "n/a" (and 1 more) [bad-value]
    """

    severity: str
    code: str
    source: str = ""
    row: int | None = None
    column: str = ""
    raw: str = ""
    count: int = 1
    message: str = ""
    hint: str = ""

    def __str__(self) -> str:
        place = self.source
        if self.row is not None:
            place += f", row {self.row:,}"
        if self.column:
            place += f', column "{self.column}"' if place else f'column "{self.column}"'
        said = self.message
        if self.raw:
            said += f': "{clipped(self.raw)}"'
        if self.count > 1:
            said += f" (and {self.count - 1:,} more)"
        return f"{self.severity}: {place + ': ' if place else ''}{said} [{self.code}]"


class SourceFault(Exception):
    """Raised while a source is read when it has to be set aside as a whole; caught by the run."""

    def __init__(
        self,
        code: str,
        message: str,
        hint: str,
        row: int | None = None,
        raw: str = "",
        severity: str = "error",
    ) -> None:
        super().__init__(code, message, hint, row, raw, severity)
        self.code, self.message, self.hint = code, message, hint
        self.row, self.raw, self.severity = row, raw, severity

    def problem(self, source: str) -> Problem:
        """The finding that this fault is, for the named source."""
        return Problem(self.severity, self.code, source, self.row, "", self.raw, 1, self.message, self.hint)


def unreadable(error: OSError) -> SourceFault:
    """The fault of a file that the system does not let us read."""
    return SourceFault(
        "unreadable",
        f"cannot be read: {error.strerror or error}",
        "check that it exists and that you may read it",
    )


def clipped(text: str, most: int = 60) -> str:
    """Shorten a text for a message, on one line.

    Examples
    --------
    >>> clipped("a" * 10, most=5)
    'aaaa…'
    """
    text = text.replace("\r", "␍").replace("\n", "␊").replace("\x00", "␀")
    return text if len(text) <= most else text[: most - 1] + "…"


def near(path: Path | None) -> str:
    """A path as a person at the prompt would write it: relative, when it lies below the working folder."""
    if path is None:
        return ""
    try:
        return str(path.relative_to(Path.cwd()))
    except ValueError:
        return str(path)


def number_of(severity: str, problems: Iterable[Problem]) -> int:
    """How many of these findings have the severity."""
    return sum(problem.severity == severity for problem in problems)
