"""Every kind of finding: its code, what it means, and what follows from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = get_args(Severity)
# what is not in the table because of it; what costs most comes first
Cost = Literal["source", "missing", "row", "cell", "column", "identifier", ""]
COSTS: tuple[Cost, ...] = get_args(Cost)
# what it is found in: the search, a file or a sheet as a whole, a name or a preamble, a header, the lines above a header,
# the rows, the figures of one or several sources, what a survey guesses, a draft, a check of the plan, a sheet of a workbook
Scope = Literal[
    "search", "source", "name", "header", "above", "rows", "figures", "guess", "draft", "check", "sheet"
]


@dataclass(frozen=True)
class Code:
    """A kind of problem."""

    name: str  # as messages and records have it
    # what it is found in. What is found in rows, or above them, a run that takes rows over has from the
    # record.
    scope: Scope
    # its usual severity: that of a check is the plan's, and what sets a whole source aside is an error
    severity: Severity
    meaning: str
    costs: Cost = ""  # what is not in the table because of it; empty where nothing is
    is_absence: bool = False  # whether something is expected and not there
    is_copy: bool = False  # whether what it keeps out of the table is there from elsewhere
    # whether its message says how many there are, so that they are not counted again behind it
    says_count: bool = False
    has_row: bool = True  # of what is found in rows: whether it names the first of them
    # whether like ones say something else each time, such as the names of other sources, and are put
    # together even so
    varies: bool = False
    # what is said of all of them in one line, whatever their sources and columns; empty where each is told
    together: str = ""


# fmt: off
CODES: dict[str, Code] = {one.name: one for one in (
    # of the search
    Code("nothing-found", "search", "error", "a folder, pattern or file of the plan without any source",
         costs="missing"),
    Code("passed-over", "search", "note", "a file or a sheet that was skipped"),
    Code("tables-skipped", "search", "warning", "files that begin like the sources, and are not read for their suffix",
         costs="source", says_count=True),
    Code("own-work", "search", "note", "a file that Integrum wrote itself"),
    Code("unsafe-name", "search", "error", "a member of an archive whose name points outside of it", costs="source"),
    Code("name-not-unicode", "search", "note", "a name that is not valid Unicode"),
    Code("kind-differs", "search", "note", "a file is something else than its suffix says"),
    Code("sheets-unmatched", "search", "warning", "a sheet in the plan that is in none of the workbooks"),
    Code("label-unused", "search", "warning", "a label in the plan for a source that is not there"),
    Code("source-count", "search", "error", "there are more or fewer sources than the plan expects", costs="missing",
         is_absence=True, says_count=True),
    Code("source-missing", "search", "error", "an expected source that is missing", costs="missing",
         is_absence=True),
    Code("source-unexpected", "search", "warning", "a source that was not expected"),
    # of a source as a whole
    Code("unreadable", "source", "error", "a file or a folder that cannot be read", costs="source"),
    Code("protected", "source", "error", "a workbook with a password", costs="source"),
    Code("kind-not-read", "source", "error", "a kind of file that Integrum does not read", costs="source"),
    Code("unpacks-too-large", "source", "error", "a packed file that unpacks to far more than it should",
         costs="source"),
    Code("stray-cells", "source", "error", "a sheet whose few cells reach so far out that they would fill the memory",
         costs="source"),
    Code("no-table", "source", "error", "a workbook of which no sheet is read", costs="source"),
    Code("not-a-table", "source", "error",
         "a file that is not delimited text: a web page, a picture, a packed file and so on", costs="source"),
    Code("empty-source", "source", "error", "an empty file or sheet", costs="source"),
    Code("bytes-not-valid", "source", "error", "bytes that are not valid in the encoding of the source",
         costs="source"),
    Code("on-its-side", "source", "error", "a table that is too large to be turned", costs="source"),
    Code("quote-not-closed", "source", "error", "a quote that is never closed", costs="source"),
    Code("no-line-end", "source", "error", "a row so long that the file is probably not text", costs="source"),
    Code("unforeseen", "source", "error", "a source that failed in an unexpected way", costs="source"),
    Code("source-changed", "source", "error", "a file that changed while it was read", costs="source"),
    Code("encoding-unclear", "guess", "warning", "a source whose encoding is uncertain"),
    Code("file-cut-off", "figures", "warning",
         "a file that does not end in a line end, unlike others with its header"),
    Code("text-misread", "above", "warning", "letters that look like UTF-8 which was read in another encoding"),
    Code("few-rows", "figures", "warning", "a source with far fewer rows than others with its header"),
    Code("nul-bytes", "source", "warning", "a file with NUL characters in its text"),
    Code("header-cell-empty", "source", "note", "columns without a header"),
    Code("header-cell-repeated", "source", "warning", "duplicate headers in one source"),
    Code("same-name", "source", "warning", "a member of an archive that has the same name as a later one",
         costs="source"),
    Code("same-content", "source", "warning", "a source with the same content as an earlier one (a duplicate)",
         is_copy=True, varies=True),
    Code("size-not-told", "source", "note", "a remote file whose place does not say how large it is"),
    Code("folder-as-number", "source", "warning",
         "a folder whose name readers of Parquet folders take for another value"),
    Code("record-elsewhere", "source", "note", "a record whose name is not the usual one"),
    # of names and preambles
    Code("path-does-not-fit", "name", "warning", "a path that does not fit the scheme of its group", costs="identifier",
         varies=True),
    Code("capture-missing", "name", "warning", "a preamble without the entry for an identifier",
         costs="identifier"),
    # of headers
    Code("no-header", "header", "error", "a source without a header where the layout expects it", costs="source"),
    Code("header-not-found", "header", "error", "a header row in which no cell is a column of the plan",
         costs="source"),
    Code("header-in-preamble", "above", "warning", "a line above the data that looks like the header"),
    Code("header-spelling", "header", "note", "a header that differs from the plan in case, spaces or punctuation",
         varies=True, together="headers that differ from the plan only in case, spaces or punctuation were matched"),
    Code("header-claimed-twice", "header", "error", "two headers of one source that belong to the same column",
         costs="source"),
    Code("unlisted-header", "header", "warning", "a header that is not in the plan", costs="column"),
    Code("not-asked-for", "header", "note", "headers of sources that the plan does not ask for", says_count=True),
    Code("header-fits-several", "header", "warning", "a header that fits the patterns of several columns",
         costs="column"),
    Code("header-guessed", "header", "warning", "a header that may belong to a column, undecided", costs="column"),
    Code("columns-alike", "header", "note", "columns of the plan that may be the same under different names"),
    Code("units-mixed", "header", "warning",
         "a column without a unit in the plan, whose sources have different units"),
    Code("column-nowhere", "header", "warning", "a column of the plan that is in no source", costs="missing"),
    Code("column-not-common", "header", "note",
         "a column that is not in the table because some sources do not have it", costs="column"),
    Code("place-unmatched", "header", "warning", "a place in `in` of a column where there is no source"),
    Code("wide-unmatched", "header", "warning", "a wide group without a wide source"),
    Code("required-missing", "header", "error", "a source without a required column", costs="source"),
    Code("unit-differs", "header", "error", "a source whose unit differs from that of the plan", costs="source"),
    Code("unit-converted", "header", "note",
         "a column whose values were converted from another unit in some sources"),
    Code("headers-are-values", "guess", "note", "header cells that are values of one thing, such as months"),
    Code("layout-undecided", "guess", "warning", "a source whose layout can be read in two ways", varies=True),
    Code("names-of-siblings", "draft", "note", "sources without a header that were given the names of others"),
    Code("drafted-as-text", "draft", "warning",
         "a column that a draft made text, though most of its values have another type"),
    Code("no-layout-fits", "header", "error", "a source that fits none of the layouts of its group", costs="source",
         varies=True),
    Code("several-layouts-fit", "header", "error",
         "a source that fits several layouts of its group, which read it differently", costs="source"),
    # of rows and cells
    Code("row-too-long", "rows", "warning", "a row with more cells than the header", costs="row"),
    Code("row-too-short", "rows", "warning", "a row with fewer cells than the header", costs="row"),
    Code("row-again", "rows", "note", "a row that is taken from an earlier source, as the rules say",
         is_copy=True),
    Code("text-after-quote", "rows", "warning", "a row with text after a closing quote", costs="row"),
    Code("repeated-header", "figures", "note", "a header repeated among the data"),
    Code("rows-in-two-sources", "figures", "warning", "a source that has rows of another one", varies=True),
    Code("no-data-rows", "figures", "warning", "a source without rows of data"),
    Code("left-out-like-data", "rows", "warning", "a row that was left out but looks like data", costs="row"),
    Code("second-table", "rows", "warning", "a source in which there is a second table", costs="row",
         says_count=True),
    Code("table-on-its-side", "rows", "warning", "a table whose variables stand in rows", has_row=False),
    Code("total-in-table", "rows", "warning", "a row of the table that begins like a total or another statistic"),
    Code("much-left-out", "guess", "warning",
         "a source of which a guess leaves out more than a tenth of the rows below the header"),
    Code("bad-value", "rows", "warning", "a value that does not have the type of its column", costs="cell"),
    Code("bad-share", "rows", "error", "a source with more unreadable values in a column than the plan allows",
         costs="cell", has_row=False),
    Code("range-apart", "figures", "warning",
         "a source whose values in a column are far from those of all other sources", varies=True),
    Code("missing-codes", "figures", "note", "cells that a run without a plan has taken for missing codes"),
    Code("signs-in-numbers", "figures", "note", "signs read in numbers: a currency, marks between thousands, brackets"),
    Code("currencies-mixed", "figures", "warning", "a column of numbers without a unit that has several currencies"),
    Code("values-differ", "rows", "warning", "a row in which several headers of one column have different values",
         costs="cell"),
    # of checks in the plan
    Code("check-impossible", "check", "error", "a check that cannot be made"),
    Code("not-unique", "check", "error", "a row with the same key as an earlier row", varies=True),
    Code("combination-missing", "check", "error", "combinations of values that are in no row"),
    Code("out-of-range", "check", "error", "a value outside the range of a check"),
    Code("not-allowed", "check", "error", "a value that is not one of the allowed values"),
    Code("pattern-not-matched", "check", "error", "a value that does not match the pattern of a check"),
    Code("too-few-filled", "check", "error", "a column with more empty cells than a check allows"),
    Code("rows-per-source", "check", "error", "a source with more or fewer rows than a check expects"),
    Code("number-of-sources", "check", "error", "more or fewer sources in the table than a check expects",
         is_absence=True),
    Code("time-not-steady", "check", "error", "times that are not in even steps", varies=True),
    Code("sources-overlap", "check", "error", "a source that begins before an earlier one ends", varies=True),
    Code("gap-between-sources", "check", "error", "a source that begins long after the earlier one ends",
         varies=True),
    Code("row-in-two-sources", "check", "error", "rows that are also in an earlier source", varies=True),
    Code("not-in-list", "check", "error", "a value that is not in the list of a check"),
    Code("listed-but-missing", "check", "error", "values in the list of a check that are not in the table"),
    # of what lies beside a table
    Code("beside-the-table", "rows", "warning", "cells beside the table", costs="cell"),
    Code("merged-down", "sheet", "note", "cells merged over several rows"),
    Code("formulas-not-saved", "sheet", "error", "formulas without saved values"),
    Code("error-without-place", "sheet", "error", "a workbook that does not show which cells are errors"),
)}
# fmt: on
