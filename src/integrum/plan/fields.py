"""What the objects of a plan share: marks of fields, faults, spans, words, names, patterns of headers."""

from __future__ import annotations

import re
import tomllib
import unicodedata
from functools import lru_cache
from typing import Literal, NamedTuple, get_args

from integrum.problems.problem import clipped

_BACKSLASH = 'a backslash in double quotes has a special meaning; write paths with "/", or in single quotes'
# what the parser says, and what that means for somebody who writes a plan
_MEANINGS = (
    ("Cannot overwrite a value", "{key} is set twice in the same table; remove one of them"),
    ("Duplicate inline table key", "a key is set twice in the same braces; remove one of them"),
    ("Unescaped '\\' in a string", _BACKSLASH),
    ("Invalid hex value", _BACKSLASH),
    ("Escaped character is not", _BACKSLASH),
    ("twice", "this table is set twice; write it once, or in double brackets [[...]] for a list of tables"),
    (
        "Cannot mutate immutable",
        "this adds to a table or list that is complete; write all of it in one place",
    ),
    ("Cannot overwrite a", "this table or key has the name of an earlier one; remove one of them"),
    ("Unterminated string", "a quote is not closed"),
    ("Illegal character '\\n'", "a quote is not closed on its line"),
    ("Illegal character", "a control character; remove it"),
    ("Unclosed array", 'a list is not closed; add "]"'),
    ("Unclosed inline table", 'braces are not closed; add "}"'),
    ("Expected '=' after a key", 'expected "=" after the key, as in  name = "depth"'),
    ("Expected newline or end of document", "expected the end of the line; are quotes or a comma missing?"),
    ("Invalid value", 'expected a value after "=": a text in quotes, a number, true, false, or a list'),
    ("Expected ']'", 'a table name is not closed; add "]"'),
    (
        "Invalid initial character for a key part",
        "expected a key; put quotes around a key with spaces or signs",
    ),
    ("Invalid statement", "expected  key = value  or a table such as [[columns]]"),
)
_AT = re.compile(r" \(at (?:line (\d+), column (\d+)|end of document)\)$")
# marks a field whose values are objects of their own, or lists of such: a table in the plan's file
HOLDS = "holds"
# marks such a list whose objects are each a table of its own there, and not inline
AS_TABLES = "as tables"
_FORM = re.compile(r"\s*(\d+)\s*([a-z]+)\s*")
_SECOND = 1_000_000
# microseconds of each unit; months are counted by the calendar
LENGTHS = {
    "s": _SECOND,
    "min": 60 * _SECOND,
    "h": 3_600 * _SECOND,
    "d": 86_400 * _SECOND,
    "week": 7 * 86_400 * _SECOND,
}
MONTHS = {"month": 1, "year": 12}
UNITS = (*LENGTHS, *MONTHS)
DateOrder = Literal["", "dmy", "mdy", "ymd"]
Case = Literal["", "lower", "upper", "title"]
Percent = Literal["", "as-written", "share"]
BadValues = Literal["blank", "set-row-aside", "set-source-aside"]
# of a column or a group: an empty text leaves it to the rules
BadValuesHere = Literal["", "blank", "set-row-aside", "set-source-aside"]
Unlisted = Literal["report", "leave-out", "keep", "refuse"]
Duplicates = Literal["set-aside", "keep"]
RepeatedRows = Literal["report", "once"]
Misnamed = Literal["blank", "set-source-aside"]
SeveralLayouts = Literal["set-source-aside", "first"]
ShortRows = Literal["set-aside", "pad"]
EmptyCells = Literal["drop", "keep"]
Fact = Literal["folder", "name", "sheet", "modified"]

BAD_VALUES: tuple[str, ...] = get_args(BadValues)
UNLISTED: tuple[str, ...] = get_args(Unlisted)
REPEATED_ROWS: tuple[str, ...] = get_args(RepeatedRows)
DUPLICATES: tuple[str, ...] = get_args(Duplicates)
MISNAMED: tuple[str, ...] = get_args(Misnamed)
SEVERAL_LAYOUTS: tuple[str, ...] = get_args(SeveralLayouts)
SHORT_ROWS: tuple[str, ...] = get_args(ShortRows)
EMPTY: tuple[str, ...] = get_args(EmptyCells)
FACTS: tuple[str, ...] = get_args(Fact)
_DASH = re.compile("[‐-―−]")
# a point or comma before a digit, a plus or minus beside one
_SIGN = re.compile(r"[.,](?=\d)|(?<=\d)[+-]|[+-](?=\d)")
# what stands for them: signs that are never taken out
_KEPT = {".": "⋅", ",": "∙", "-": "¬", "+": "+"}

# the part of a header cell that names an instrument, as in "Temp (S/N: 10482)"
_SERIAL = re.compile(
    r"[ ,;_]*[\[(][^\[\]()]*\b(?:s/n|sn|ser(?:ial)?(?: ?(?:no|number|nr))?\.?|sensor|logger|device|probe|id)\b"
    r"[^\[\]()]*\d{3,}[^\[\]()]*[\])]|[ ,;_]+(?:s/n|sn|serial(?: ?(?:no|number|nr))?)\.?[ :#=_-]*\d{3,}\w*",
    re.IGNORECASE,
)


def explained(error: tomllib.TOMLDecodeError, text: str) -> tuple[str, int]:
    """What is wrong, in words, and the number of the line; 0 where that is not known.

    Examples
    --------
    >>> text = 'integrum = 1\\n[[sources]]\\nfind = "d\\\\a.csv"\\n'
    >>> try:
    ...     _ = tomllib.loads(text)
    ... except tomllib.TOMLDecodeError as error:
    ...     message, line = explained(error, text)
    >>> line, message.partition(": ")[0]
    (3, 'not valid TOML')
    """
    lines = text.splitlines() or [""]
    said = str(error)
    at = _AT.search(said)
    number = int(at[1]) if at and at[1] else len(lines)
    said = _AT.sub("", said)
    line = lines[min(number, len(lines)) - 1].strip()
    key = line.partition("=")[0].strip()
    if line.startswith("["):
        said = said.replace("Cannot overwrite a value", "Cannot overwrite a table")
    meaning = next((words for start, words in _MEANINGS if start in said), said).replace("{key}", key)
    if said.startswith("Un") and not (at and at[1]) and len(lines) > 1:
        return f"not valid TOML: {meaning}", 0  # it may have begun anywhere
    return f"not valid TOML: {meaning}; the line is: {clipped(line)}", number


def key_of_field(name: str) -> str:
    """The key of a field in the file: without the underscore that keeps it from being a word of Python.

    Examples
    --------
    >>> key_of_field("in_"), key_of_field("unit")
    ('in', 'unit')
    """
    return name.removesuffix("_")


class Span(NamedTuple):
    """A span of time."""

    micros: int  # its microseconds; 0 for one of months
    months: int  # its months; 0 for one of a fixed length


def span_of(text: str) -> Span | None:
    """The span that a text says, or None.

    Examples
    --------
    >>> span_of("10 min"), span_of("2 years"), span_of("soon")
    (Span(micros=600000000, months=0), Span(micros=0, months=24), None)
    """
    found = _FORM.fullmatch(text)
    if found is None or not int(found[1]):
        return None
    unit = found[2] if found[2] in UNITS else found[2].removesuffix("s")
    if unit in LENGTHS:
        return Span(int(found[1]) * LENGTHS[unit], 0)
    return Span(0, int(found[1]) * MONTHS[unit]) if unit in MONTHS else None


def without_serial(name: str) -> str:
    """A header cell without the serial number of the instrument.

    Examples
    --------
    >>> without_serial("Temp, °C (S/N: 20481384)"), without_serial("Light [sensor 1042]"), without_serial("Count (2019)")
    ('Temp, °C', 'Light', 'Count (2019)')
    """
    return _SERIAL.sub("", name).strip() or name


def serial_pattern(name: str) -> str:
    """A pattern for a header cell with the serial number of any instrument; empty where it has none.

    Examples
    --------
    >>> serial_pattern("Temp, °C (S/N: 20481384)"), serial_pattern("Temp")
    ('Temp, °C (S/N: *)', '')
    """
    if not _SERIAL.search(name) or any(letter in "*?" for letter in name):
        return ""
    return _SERIAL.sub(lambda found: re.sub(r"\w*\d{3,}\w*", "*", found[0]), name)


@lru_cache(1 << 15)
def loosened(name: str) -> str:
    """A name without regard to case, spaces and punctuation.

    Signs that carry meaning in measurements stay: ``%``, ``#``, ``&``, ``@``, ``°``, ``+``, ``µ`` and the like; and so do a
    point or a comma before a digit, and a plus or a minus beside one.

    Equal for names that differ only in how they are written; empty when nothing is left.

    Examples
    --------
    >>> loosened("Water_Temp (°C)") == loosened("water temp [°c]"), loosened("O2 (%)") == loosened("O2")
    (True, False)
    >>> loosened("temp 1.5 m") == loosened("temp 15 m"), loosened("T-5") == loosened("T5")
    (False, False)
    """
    folded = _DASH.sub("-", unicodedata.normalize("NFKC", name).casefold())
    folded = _SIGN.sub(lambda found: _KEPT[found[0]], folded)
    return "".join(
        letter
        for letter in unicodedata.normalize("NFKC", folded)
        if not letter.isspace() and (letter in "%#&@" or unicodedata.category(letter)[0] not in "PCZ")
    )


def is_pattern(text: str) -> bool:
    """Whether a text can be a pattern.

    Examples
    --------
    >>> is_pattern("Temp ? (°C)"), is_pattern("Temp [°C]")
    (True, False)
    """
    return "*" in text or "?" in text


def fits(header: str, pattern: str) -> bool:
    """Whether a header cell fits a pattern; capitals count, as they do for names.

    Examples
    --------
    >>> fits("Temp 2 (°C)", "Temp ? (°C)"), fits("Odd one", "Odd*"), fits("odd", "Odd*")
    (True, True, False)
    """
    return _compiled(pattern).fullmatch(header) is not None


@lru_cache(maxsize=1024)
def _compiled(pattern: str) -> re.Pattern[str]:
    wild = {"*": ".*?", "?": "."}
    return re.compile("".join(wild.get(letter) or re.escape(letter) for letter in pattern), re.DOTALL)
