"""Date: year, month and day, as in 2024-05-01."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from datetime import date

import pyarrow as pa

from integrum.values.arrays import Mask, truths
from integrum.values.digits import Letters
from integrum.values.notation import AS_WRITTEN, Conversion
from integrum.values.sketch import moments_as_texts
from integrum.values.types.type import Tested, Type, tested_by_cast
from integrum.values.written.times import date_parts

LENGTH, YEAR = len("2024-05-01"), len("2024")
_FORM = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
_MIDNIGHT = re.compile(r"([0-9-]{10})[ T]00:00(?::00(?:\.0+)?)?")
_FIRST = (date.min - date(1970, 1, 1)).days  # the calendar begins with the year 1
_ORDERED = re.compile(r"\s*\d{1,2}[-/. ]\d{1,2}[-/. ]\d{2}(\d{2})?\b.*")
_ZONED = re.compile(r".*\d{2}(Z|[+-]\d{2}:?\d{2}|UTC|GMT)\s*")


def _parse(text: str) -> str | None:
    midnight = _MIDNIGHT.fullmatch(text)
    text = midnight[1] if midnight else text
    if not _FORM.fullmatch(text):
        return None
    try:
        date.fromisoformat(text)
    except ValueError:
        return None
    return text


def _test(values: pa.Array) -> Tested:
    return (False, None) if _odd(values).any() else tested_by_cast(values, pa.date32(), pa.int32(), _FIRST)


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    wrong: Mask = letters.lengths != LENGTH
    if len(letters.data):
        wrong |= letters.first(letters.starts + YEAR) != ord("-")
    return wrong & truths(values.is_valid()) if wrong.any() else wrong


def time_steps(how: Conversion) -> Iterator[str]:
    """What a plan has done to a date or a time besides reading it."""
    if how.zone and how.zone != AS_WRITTEN:
        yield f"converted to the zone {how.zone}"
    if how.spelling:
        yield f"spelled {how.spelling}"


def day_steps(text: str, how: Conversion, _: str) -> Iterator[str]:
    """What was done to a date, with a time or without, that was not canonical."""
    if how.notation.format:
        yield f"read with the format {' or '.join(how.notation.format)}"
    elif text[:4].isdecimal():
        yield "a date with the year first"
    elif how.notation.date_order:
        yield f"read in the order {how.notation.date_order}"
    yield from time_steps(how)


def day_advice(raw: str, given: Collection[str]) -> str:
    """What to do about a text that is no date: its order of day and month may be unclear, or a zone stand behind it."""
    if _ORDERED.fullmatch(raw) and "date_order_in" in given and "date_order" not in given:
        return 'add "{source}" to date_order_in of the column, below "dmy" or "mdy"'
    if _ORDERED.fullmatch(raw) and not {"date_order", "format"} & {*given}:
        return 'set date_order = "dmy" or "mdy" for the column, or set its `format`'
    if _ZONED.fullmatch(raw) and "zone" not in given:
        return 'set zone = "UTC" for the column, or zone = "as-written"'
    return ""


DATE = Type(
    "date",
    pa.date32(),
    "a date",
    ("1895-07-14", "2024-02-29", "2024-05-01"),
    _parse,
    _test,
    _odd,
    pattern="^[0-9]{4}-[0-9]{2}-[0-9]{2}$",
    rule=date_parts,
    tried=4,
    likeness="time",
    wider="datetime",
    has_day=True,
    from_numbers=moments_as_texts(pa.date32()),
    keys=frozenset({"date_order", "date_order_in", "format"}),
    checks=frozenset({"range", "steady", "follow"}),
    datatype="date",
    spelled="date",
    cell_format="yyyy-mm-dd",
    steps=day_steps,
    advice=day_advice,
)
