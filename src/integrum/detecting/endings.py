"""Words that begin the totals, the statistics and the notes below a table."""

from __future__ import annotations

import re

from integrum.detecting.vocabulary import NOTES, STATISTICS

_NOTES = re.compile("|".join(NOTES), re.IGNORECASE)
_UP_TO = re.compile(r"[:=]")
COUNTED = re.compile(r"n\s*=\s*\d+", re.IGNORECASE)


def is_summary(cell: str) -> bool:
    """Whether a whole cell, or what stands before its colon or equals sign, is a word for a statistic.

    Examples
    --------
    >>> [is_summary(cell) for cell in ("Total", "Mean:", "n = 12", "Summer", "Minnesota", "Total count of fish")]
    [True, True, True, False, False, False]
    """
    return leading(cell).casefold() in STATISTICS or COUNTED.fullmatch(cell.strip()) is not None


def is_note(cell: str) -> bool:
    """Whether a cell begins like a remark below a table.

    Examples
    --------
    >>> [is_note(cell) for cell in ("Note: checked", "* estimated", "End of file", "Noteworthy", "Endmere")]
    [True, True, True, False, False]
    """
    return _NOTES.match(cell.strip()) is not None


def leading(cell: str) -> str:
    """A cell up to its first colon or equals sign, without outer spaces.

    Examples
    --------
    >>> leading(" Total: 12 "), leading("Total")
    ('Total', 'Total')
    """
    return _UP_TO.split(cell, maxsplit=1)[0].strip()
