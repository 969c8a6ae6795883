"""One finding about a source, and what its severity means."""

from __future__ import annotations

import errno
import re
import traceback
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from integrum.errors import IntegrumError
from integrum.problems.codes import CODES, SEVERITIES, Code, Cost, Severity

# a longer text is told by this many letters
MOST_RAW = 2_000


@dataclass(frozen=True)
class Problem:
    """One finding.

    Attributes
    ----------
    severity
        ``"error"``: a source was set aside or is missing, or a check failed. ``"warning"``: cells, rows or columns are not
        in the table, or may be wrong. ``"note"``: nothing was lost, but worth knowing.
    code
        A short fixed name for this kind of problem, such as ``"bad-value"``; `CODES` lists all of them.
    source
        The name of the source, or ``""``.
    row
        The row in the source, counted from the top from 1, or None. With a `count`, the first such row.
    column
        The column of the table, or the header cell, or ``""``.
    raw
        The text as it stands in the source, or ``""``. With a `count`, the first such text. Of a very long one only the
        first 2,000 letters; the record keeps all of it once, in ``set-aside.csv`` or ``left-out.csv``.
    count
        How often this was found in this source.
    message
        What was found, in a short sentence.
    hint
        What to do about it.

    Examples
    --------
    >>> print(Problem("warning", "bad-value", "2021.csv", 7, "depth", "n/a", 2, "not a number", "see it"))
    warning: 2021.csv, row 7, column "depth": not a number: "n/a" (and 1 more) [bad-value]
    """

    severity: Severity
    code: str
    source: str = ""
    row: int | None = None
    column: str = ""
    raw: str = ""
    count: int = 1
    message: str = ""
    hint: str = ""

    def __post_init__(self) -> None:
        if len(self.raw) > MOST_RAW:
            object.__setattr__(self, "raw", f"{self.raw[:MOST_RAW]}…")
        if self.severity not in SEVERITIES or self.code not in CODES:
            raise ValueError(f"there is no {self.severity} with the code {self.code!r}; see CODES")

    @classmethod
    def of(
        cls,
        code: str,
        source: str = "",
        row: int | None = None,
        column: str = "",
        raw: str = "",
        count: int = 1,
        message: str = "",
        hint: str = "",
    ) -> Problem:
        """Make a problem with the usual severity of its code.

        Examples
        --------
        >>> print(Problem.of("no-data-rows", "may.csv", message="no rows of data"))
        warning: may.csv: no rows of data [no-data-rows]
        """
        return cls(CODES[code].severity, code, source, row, column, raw, count, message, hint)

    @property
    def kind(self) -> Code:
        """Its code, with what follows from it."""
        return CODES[self.code]

    @property
    def costs(self) -> Cost:
        """What is not in the table because of it; a note never costs anything."""
        return "" if self.severity == "note" else self.kind.costs

    def __str__(self) -> str:
        place = self.source
        if self.row is not None:
            place += f", row {self.row:,}"
        if self.column:
            place += f', column "{self.column}"' if place else f'column "{self.column}"'
        said = self.message
        if self.raw:
            said += f': "{clipped(self.raw)}"'
        if self.count > 1 and not self.kind.says_count:
            said += f" (and {self.count - 1:,} more)"
        whole = f"{self.severity}: {place + ': ' if place else ''}{said} [{self.code}]"
        return visible(whole).replace("\n", "␊")


class SourceFault(IntegrumError):
    """Raised while a source is read when it has to be set aside as a whole; caught by the run."""

    def __init__(
        self,
        code: str,
        message: str,
        hint: str,
        row: int | None = None,
        raw: str = "",
        severity: Severity = "error",
        trace: str = "",
    ) -> None:
        super().__init__(code, message, hint, row, raw, severity, trace)
        self.code, self.message, self.hint = code, message, hint
        self.row, self.raw, self.severity, self.trace = row, raw, severity, trace

    def __str__(self) -> str:
        return f"{self.message}; {self.hint}"

    def problem(self, source: str) -> Problem:
        """The problem that this fault is, for a source."""
        return Problem(self.severity, self.code, source, self.row, "", self.raw, 1, self.message, self.hint)


def unforeseen(error: Exception) -> SourceFault:
    """The fault of a source that failed in a way that was not foreseen; it keeps the traceback.

    Too little memory, and too few threads, are told as what they are.

    Examples
    --------
    >>> unforeseen(ZeroDivisionError("division by zero")).message
    'reading it failed: ZeroDivisionError: division by zero'
    """
    lack, hint = lack_of(error)
    if lack:
        return SourceFault("unreadable", f"cannot be read: {lack}", hint)
    name = "" if isinstance(error, IntegrumError) else f"{type(error).__name__}: "
    said = " ".join(f"{name}{error}".split()).rstrip(": ")
    return SourceFault(
        "unforeseen",
        f"reading it failed: {clipped(said, 200)}",
        "this is a bug in Integrum or in a function of your own; run.json in the record has the details",
        trace="".join(traceback.format_exception(error)),
    )


def lack_of(error: BaseException) -> tuple[str, str]:
    """What the machine has too little of, when that is why something failed, and what to do; empty texts for all else.

    Examples
    --------
    >>> lack_of(MemoryError())[0], lack_of(RuntimeError("can't start new thread"))[0], lack_of(ValueError())
    ('there is too little memory', 'no more threads can be started', ('', ''))
    """
    said = str(error)
    if isinstance(error, MemoryError) or any(sign in said for sign in _NO_MEMORY):
        return "there is too little memory", "close other programs, or use a machine with more memory"
    if "can't start new thread" in said or (isinstance(error, OSError) and error.errno == errno.EAGAIN):
        return (
            "no more threads can be started",
            "raise the limit of processes (ulimit -u), or get more memory",
        )
    return "", ""


# what libraries say when they get no memory, for data or for their own code
_NO_MEMORY = ("malloc of size", "realloc of size", "failed to map segment", "Cannot allocate memory")


def unreadable(error: OSError) -> SourceFault:
    """The fault of a file that the system does not let us read."""
    return SourceFault(
        "unreadable",
        f"cannot be read: {error.strerror or error}",
        "check that it exists and that you are allowed to read it",
    )


def clipped(text: str, most: int = 60) -> str:
    """Shorten a text for a message, on one line.

    Examples
    --------
    >>> clipped("a" * 10, most=5), clipped("a\\nb")
    ('aaaa…', 'a␊b')
    """
    text = visible(text[: most + 1]).replace("\n", "␊").replace("\t", " ")
    return text if len(text) <= most else text[: most - 1] + "…"


def middle(text: str, most: int = 60) -> str:
    """Shorten a name in its middle, so that both ends can be read.

    Examples
    --------
    >>> middle("vessel-lake/vessel-lake_2024-09_00479.csv", 24)
    'vessel-l…24-09_00479.csv'
    """
    text = clipped(text, len(text) + 1)
    if len(text) <= most:
        return text
    end = max(most * 2 // 3 - 1, 1)
    return f"{text[: most - 1 - end]}…{text[-end:]}"


def visible(text: str) -> str:
    """Replace control characters and marks that turn the direction of writing by visible signs.

    Line feeds and tabs stay.

    Examples
    --------
    >>> visible("\\x1b[31mred\\x9b"), visible("a\\u202eb")
    ('␛[31mred\\\\u009b', 'a\\\\u202eb')
    """
    return COMMANDS.sub(_as_sign, text)


COMMANDS = re.compile(
    r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb]"
)


def _as_sign(found: re.Match[str]) -> str:
    code = ord(found[0])
    if code < 0x20:
        return chr(0x2400 + code)
    return "␡" if code == 0x7F else f"\\u{code:04x}"


def near(path: Path | str | None) -> str:
    """A path as a person would type it: relative if it is below the working folder.

    An address, which is a text, stays as it is.
    """
    if path is None or isinstance(path, str):
        return path or ""
    try:
        return str(path.relative_to(Path.cwd()))
    except ValueError:
        return str(path)


def counted(count: int, word: str) -> str:
    """A count in words.

    Examples
    --------
    >>> counted(1, "row"), counted(5220, "row")
    ('1 row', '5,220 rows')
    """
    return f"{count:,} {word}" if count == 1 else f"{count:,} {word}s"


def first_few(texts: Sequence[str], most: int) -> str:
    """The first of some texts, and the number of the others.

    >>> first_few(["a", "b", "c", "d"], 2), first_few(["a", "b"], 2)
    ('a, b and 2 more', 'a, b')
    """
    more = f" and {len(texts) - most:,} more" if len(texts) > most else ""
    return ", ".join(texts[:most]) + more


def quoted(names: Iterable[str], most: int = 6) -> str:
    """The first of some names in quotes, and the number of the others."""
    return first_few([f'"{name}"' for name in names], most)


def number_of(severity: str, problems: Iterable[Problem]) -> int:
    """The number of problems with a severity."""
    known = getattr(problems, "number_of", None)  # of many it is known
    return known(severity) if known else sum(problem.severity == severity for problem in problems)
