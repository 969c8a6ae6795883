"""Values that match a pattern."""

from __future__ import annotations

from functools import partial

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Mask, texts, truths
from integrum.checking.per_value import PerValue
from integrum.checking.rows import TableRows
from integrum.errors import PlanError
from integrum.plan.check import Check


def pattern(check: Check) -> PerValue:
    """The check that a plan describes.

    Raises PlanError when the pattern is none.
    """
    whole = f"^(?:{check.match})$"
    try:
        pc.match_substring_regex(texts([""]), whole)
    except pa.ArrowInvalid as error:
        raise PlanError(
            f"not a valid regular expression: {error}", f'check "{check.key}", key match'
        ) from None
    return PerValue(
        check.column,
        "pattern-not-matched",
        f"does not match the pattern {check.match}",
        "fix it in the source, or add it to `values` of the column",
        partial(_unmatched, column=check.column, whole=whole),
    )


def _unmatched(rows: TableRows, column: str, whole: str) -> Mask:
    found = rows.texts(column).dictionary_encode()
    fits = pc.match_substring_regex(found.dictionary, whole).take(found.indices)
    return truths(found.is_valid()) & ~truths(fits)
