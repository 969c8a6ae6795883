"""One finding about a source, and what its severity means."""

from __future__ import annotations

import re
import traceback
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, get_args

from integrum.errors import IntegrumError

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = get_args(Severity)

# every kind of finding, and what it means
CODES = {
    # of the search
    "nothing-found": "a folder, pattern or file of the plan without any source",
    "passed-over": "a file or a sheet that was skipped",
    "own-work": "a file that Integrum wrote itself",
    "unsafe-name": "a member of an archive whose name points outside of it",
    "name-not-unicode": "a name that is not valid Unicode",
    "kind-differs": "a file is something else than its suffix says",
    "sheets-unmatched": "a sheet in the plan that is in none of the workbooks",
    "label-unused": "a label in the plan for a source that is not there",
    "source-count": "there are more or fewer sources than the plan expects",
    "source-missing": "an expected source that is missing",
    "source-unexpected": "a source that was not expected",
    # of a source as a whole
    "unreadable": "a file or a folder that cannot be read",
    "protected": "a workbook with a password",
    "kind-not-read": "a kind of file that Integrum does not read",
    "unpacks-too-large": "a packed file that unpacks to far more than it should",
    "stray-cells": "a sheet whose few cells reach so far out that they would fill the memory",
    "no-table": "a workbook of which no sheet is read",
    "not-a-table": "a file that is not delimited text: a web page, a picture, a packed file and so on",
    "empty-source": "an empty file or sheet",
    "bytes-not-valid": "bytes that are not valid in the encoding of the source",
    "quote-not-closed": "a quote that is never closed",
    "no-line-end": "a row so long that the file is probably not text",
    "unforeseen": "a source that failed in an unexpected way",
    "source-changed": "a file that changed while it was read",
    "encoding-unclear": "a source whose encoding is uncertain",
    "file-cut-off": "a file that does not end in a line end, unlike others with its header",
    "few-rows": "a source with far fewer rows than others with its header",
    "nul-bytes": "a file with NUL characters in its text",
    "header-cell-empty": "columns without a header",
    "header-cell-repeated": "duplicate headers in one source",
    "same-name": "a member of an archive that has the same name as a later one",
    "same-content": "a source with the same content as an earlier one (a duplicate)",
    "second-table": "a source in which there may be a second table",
    "size-not-told": "a remote file whose place does not say how large it is",
    "folder-as-number": "a folder whose name readers of Parquet folders take for another value",
    "record-elsewhere": "a record whose name is not the usual one",
    # of names and preambles
    "path-does-not-fit": "a path that does not fit the scheme of its group",
    "capture-missing": "a preamble without the entry for an identifier",
    # of headers
    "no-header": "a source without a header where the layout expects it",
    "header-not-found": "a header row in which no cell is a column of the plan",
    "header-in-preamble": "a line above the data that looks like the header",
    "header-spelling": "a header that differs from the plan in case, spaces or punctuation",
    "header-claimed-twice": "two headers of one source that belong to the same column",
    "unlisted-header": "a header that is not in the plan",
    "header-fits-several": "a header that fits the patterns of several columns",
    "header-guessed": "a header that may belong to a column, undecided",
    "columns-alike": "columns of the plan that may be the same under different names",
    "units-mixed": "a column without a unit in the plan, whose sources have different units",
    "column-nowhere": "a column of the plan that is in no source",
    "column-not-common": "a column that is not in the table because some sources do not have it",
    "place-unmatched": "a place in `in` of a column where there is no source",
    "wide-unmatched": "a wide group without a wide source",
    "required-missing": "a source without a required column",
    "unit-differs": "a source whose unit differs from that of the plan",
    "unit-converted": "a column whose values were converted from another unit in some sources",
    "drafted-as-text": "a column that a draft made text, though most of its values have another type",
    "no-layout-fits": "a source that fits none of the layouts of its group",
    "several-layouts-fit": "a source that fits several layouts of its group, which read it differently",
    # of rows and cells
    "row-too-long": "a row with more cells than the header",
    "row-too-short": "a row with fewer cells than the header",
    "text-after-quote": "a row with text after a closing quote",
    "repeated-header": "a header repeated among the data",
    "no-data-rows": "a source without rows of data",
    "left-out-like-data": "a row that was left out but looks like data",
    "much-left-out": "a source of which a guess leaves out more than a tenth of the rows below the header",
    "bad-value": "a value that does not have the type of its column",
    "bad-share": "a source with more unreadable values in a column than the plan allows",
    "range-apart": "a source whose values in a column are far from those of all other sources",
    "values-differ": "a row in which several headers of one column have different values",
    # of checks in the plan
    "check-impossible": "a check that cannot be made",
    "not-unique": "a row with the same key as an earlier row",
    "combination-missing": "combinations of values that are in no row",
    "out-of-range": "a value outside the range of a check",
    "not-allowed": "a value that is not one of the allowed values",
    "pattern-not-matched": "a value that does not match the pattern of a check",
    "too-few-filled": "a column with more empty cells than a check allows",
    "rows-per-source": "a source with more or fewer rows than a check expects",
    "number-of-sources": "more or fewer sources in the table than a check expects",
    "time-not-steady": "times that are not in even steps",
    "sources-overlap": "a source that begins before an earlier one ends",
    "gap-between-sources": "a source that begins long after the earlier one ends",
    "row-in-two-sources": "rows that are also in an earlier source",
    "not-in-list": "a value that is not in the list of a check",
    "listed-but-missing": "values in the list of a check that are not in the table",
    # of what lies beside a table
    "beside-the-table": "cells beside the table",
    "merged-down": "cells merged over several rows",
    "formulas-not-saved": "formulas without saved values",
    "error-without-place": "a workbook that does not show which cells are errors",
}


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
        The text as it stands in the source, or ``""``. With a `count`, the first such text.
    count
        How often this was found in this source.
    message
        What was found.
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
        if self.severity not in SEVERITIES or self.code not in CODES:
            raise ValueError(f"there is no {self.severity} with the code {self.code!r}; see CODES")

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
        """The finding that this fault is, for the named source."""
        return Problem(self.severity, self.code, source, self.row, "", self.raw, 1, self.message, self.hint)


def unforeseen(error: Exception) -> SourceFault:
    """The fault of a source that failed in a way that was not foreseen; it keeps the traceback.

    Examples
    --------
    >>> unforeseen(ZeroDivisionError("division by zero")).message
    'reading it failed: ZeroDivisionError: division by zero'
    """
    name = "" if isinstance(error, IntegrumError) else f"{type(error).__name__}: "
    said = " ".join(f"{name}{error}".split()).rstrip(": ")
    return SourceFault(
        "unforeseen",
        f"reading it failed: {clipped(said, 200)}",
        "this is a bug in Integrum or in a function of your own; run.json in the record has the details",
        trace="".join(traceback.format_exception(error)),
    )


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
    """A text with signs in the place of letters that would command a terminal, or turn the direction of writing.

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
    """A path as a person at the prompt would write it: relative, when it lies below the working folder.

    An address, which is a text, stays as it is.
    """
    if path is None or isinstance(path, str):
        return path or ""
    try:
        return str(path.relative_to(Path.cwd()))
    except ValueError:
        return str(path)


def counted(count: int, word: str) -> str:
    """A number of things in words.

    Examples
    --------
    >>> counted(1, "row"), counted(5220, "row")
    ('1 row', '5,220 rows')
    """
    return f"{count:,} {word}" if count == 1 else f"{count:,} {word}s"


def number_of(severity: str, problems: Iterable[Problem]) -> int:
    """How many of these findings have the severity."""
    known = getattr(problems, "number_of", None)  # of many it is known
    return known(severity) if known else sum(problem.severity == severity for problem in problems)
