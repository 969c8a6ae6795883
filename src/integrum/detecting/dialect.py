"""How the cells of a sample are separated and quoted, and the marks in its numbers."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from integrum.plan.layout import SPACES
from integrum.values.cells import is_value, kind_of

DELIMITERS = (",", ";", "\t", "|")
_ONE_NUMBER = re.compile(r"\s*[+-]?\d+(?:,\d+)?\s*")
_SEP = re.compile(r'"?sep=(.)"?\s*')
_MOST_LINES = 400
_ONE_COLUMN = 0.5
# the least share of lines with the same number of blanks, the most lines after the table, the least values of a column
_AGREEING, _ENDS, _TYPED, _LEAST = 0.95, 3, 0.6, 2
_SPACES = re.compile(r"[\s\u00a0\u2009\u202f'’]")
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?")
_COMMA = re.compile(r"\s*[+-]?\d+,\d+\s*%?")
_COMMA_GROUPED = re.compile(r"\s*\(?[+-]?\d{1,3}(?:[. '’\u00a0\u2009\u202f]\d{3})+,\d+\)?\s*")
_OPEN = re.compile(r"\s*[+-]?[1-9]\d{0,2}[.,]\d{3}\s*%?")
_POINT = re.compile(r"\s*[+-]?\d*\.\d+\s*%?")
_POINT_GROUPED = re.compile(r"\s*[+-]?\d{1,3}(?:,\d{3})+(?:\.\d+)?\s*")
# two groups, or one before a point; and a first group that is shorter than all others, as those of listed codes are not
_SURELY_GROUPED = re.compile(r"\s*[+-]?(?:\d{1,3}(?:,\d{3}){2,}|\d{1,3}(?:,\d{3})+\.\d+)\s*")
_SHORT_GROUP = re.compile(r"\s*[+-]?\d{1,2},")


@dataclass(frozen=True)
class Separated:
    """How cells are separated and quoted, with a score from 0 to about 2 for the best reading."""

    delimiter: str
    quote: str
    escape: str
    score: float
    said: bool = False


def detect_dialect(lines: Sequence[str]) -> Separated:
    """Decide how the cells of some lines are separated and quoted.

    `lines`: from the head, the middle and the tail, without line ends.

    Examples
    --------
    >>> lines = ["Site: Ambermere", "time;depth;temp", "2024-05-01 12:00;3,1;7,20", "2024-05-01 13:00;3,2;7,10"]
    >>> detect_dialect(lines).delimiter
    ';'
    """
    any_quote = any('"' in line or "'" in line for line in lines)
    quote = _quote(lines) if any_quote else '"'
    escape = _escape(lines, quote) if any_quote else ""
    said = _SEP.fullmatch(lines[0]) if lines else None
    if said:
        return Separated(said[1], quote, escape, 2.0, said=True)
    filled = [line for line in lines if line.strip()]
    step = max(1, len(filled) // _MOST_LINES)
    some = filled[::step][: 2 * _MOST_LINES]
    if _is_decimal_list(some):
        return Separated(";", quote, escape, 1.0)
    text = "\n".join(some)
    scores = {
        each: _score(_split(some, each, quote, escape), each) if each in text else 0.0 for each in DELIMITERS
    }
    best = max(DELIMITERS, key=lambda each: scores[each])
    if scores[best] < 0.6:
        spaced = _score([re.split(r" +", line.strip()) for line in some], SPACES)
        if spaced > max(scores[best], 0.45) and _blanks_delimit(some):
            other = _better_in_a_block(some, quote, escape)
            return Separated(other or SPACES, quote, escape, scores[other] if other else spaced)
    if scores[best] <= 0:  # one column, which nothing in it shall cut
        best = next((each for each in DELIMITERS if each not in text), ",")
        return Separated(best, quote, escape, _ONE_COLUMN if best not in text else 0.0)
    return Separated(best, quote, escape, scores[best])


def _is_decimal_list(lines: Sequence[str]) -> bool:
    """Whether all lines are one number, some with a decimal comma.

    Examples
    --------
    >>> _is_decimal_list(["length", "12,5", "13,1", "9"]), _is_decimal_list(["length", "1,12", "2,13", "3,9"])
    (True, False)
    """
    start = next((at for at, line in enumerate(lines) if _ONE_NUMBER.fullmatch(line)), 0)
    numbers = lines[start:]
    if not start or any("," in line for line in lines[:start]) or len(numbers) < _LEAST:
        return False
    if not all(_ONE_NUMBER.fullmatch(line) for line in numbers) or not any("," in line for line in numbers):
        return False
    first = [int(line.split(",")[0]) for line in numbers]
    return first[0] not in (0, 1) or any(after - before != 1 for before, after in pairwise(first))


def _blanks_delimit(lines: Sequence[str]) -> bool:
    """Whether blanks separate cells, not words: header and rows have equally many.

    Examples
    --------
    >>> _blanks_delimit(["lake depth", "Amber 3.1", "Vessel 4.0"])
    True
    >>> _blanks_delimit(["note", "wind from north", "no waves seen"])
    False
    >>> _blanks_delimit(["when", "2024-05-01 10:00", "2024-05-02 11:00"])
    False
    """
    rows = [re.split(r" +", line.strip()) for line in lines]
    counts = [len(row) for row in rows]
    several = Counter(count for count in counts if count > 1)
    if not several:
        return False
    width = max(several, key=lambda count: several[count] * min(count, 8) ** 0.5)
    end = max(at for at, count in enumerate(counts) if count == width) + 1
    start = counts.index(width)
    while start and end - start > 1 and counts[start : start + 2] != [width, width]:
        start += 1
    inside = counts[start:end]
    if inside.count(width) < _AGREEING * len(inside):
        return False
    if end < len(counts) - _ENDS:
        return False
    table = [row for row in rows[start:end] if len(row) == width]
    values = [[kind_of(cell) in ("number", "time") for cell in row] for row in table]
    typed = [at for at in range(width) if sum(row[at] for row in values[1:]) >= _TYPED * len(values[1:])]
    has_header = not any(values[0])
    if not typed or len(table) < _LEAST:
        return False
    if not has_header and start and not any(map(is_value, rows[start - 1])) and counts[start - 1] < width:
        return False  # the line above names the one column that there is
    return not all(kind_of(line.strip()) == "time" for line in lines[start + has_header : end])


def _better_in_a_block(lines: Sequence[str], quote: str, escape: str) -> str:
    """The delimiter that separates neighbouring lines better than spaces do; empty where none does.

    A table below a long preamble is such a block; in the preamble spaces separate words.
    """
    for each in DELIMITERS:
        best: list[str] = []
        block: list[str] = []
        for line in lines:
            if block and line.count(each) != block[-1].count(each):
                block = []
            if each in line:
                block.append(line)
            if len(block) >= max(len(best), 1):
                best = list(block)
        if len(best) > 1 or (best and best[-1] is lines[-1]):
            spaced = _score([re.split(r" +", line.strip()) for line in best], SPACES)
            if _score(_split(best, each, quote, escape), each) >= spaced:
                return each
    return ""


def _quote(lines: Sequence[str]) -> str:
    if any('"' in line for line in lines):
        double = sum(len(re.findall(r'(?:^|[,;\t| ])"', line)) for line in lines)
        single = sum(len(re.findall(r"(?:^|[,;\t|])'[^']*'(?=$|[,;\t|])", line)) for line in lines)
        return "'" if single > 3 * double else '"'
    single = sum(len(re.findall(r"(?:^|[,;\t| ])'[^']*'(?=$|[,;\t| ])", line)) for line in lines)
    return "'" if single >= 3 else '"'


def _escape(lines: Sequence[str], quote: str) -> str:
    escaped = re.compile(rf"(?:^|[,;\t|]){quote}(?:[^{quote}\\]|\\.)*\\{quote}")
    doubled = quote * 2
    count = sum(escaped.search(line) is not None for line in lines)
    if not count:
        return ""
    return (
        "\\"
        if count > sum(re.search(rf"[^,;\t|]{doubled}[^,;\t|]", line) is not None for line in lines)
        else ""
    )


def _split(lines: Sequence[str], delimiter: str, quote: str, escape: str) -> list[list[str]]:
    reader = csv.reader(
        lines,
        delimiter=delimiter,
        quotechar=quote,
        escapechar=escape or None,
        doublequote=not escape,
        strict=False,
    )
    rows = []
    while True:
        try:
            rows.append(next(reader))
        except StopIteration:
            return rows
        except csv.Error:
            continue


def _score(rows: Sequence[Sequence[str]], delimiter: str) -> float:
    """How much some rows look like a table: even widths, cells that are values, no other separators inside."""
    widths = Counter(len(row) for row in rows if len(row) > 1)
    if not widths:
        return 0.0
    width, count = max(widths.items(), key=lambda item: item[1] * min(item[0], 8) ** 0.5)
    even = count / max(len(rows), 1)
    table = [row for row in rows if len(row) == width]
    table = table[:: max(1, len(table) // 24)]
    cells = [cell for row in table for cell in row if cell.strip()]
    if not cells:
        return 0.0
    values = sum(map(is_value, cells)) / len(cells)
    are_sentences = delimiter in ",;" and all(cell[:1] == " " for row in table for cell in row[1:])
    if are_sentences and even < 1 and not any(kind_of(cell) in ("number", "time") for cell in cells):
        return 0.0
    text = "\n".join(cells)
    others = [each for each in ";\t|" if each != delimiter and each in text]
    foreign = sum(any(other in cell for other in others) for cell in cells) / len(cells)
    dangling = (
        sum(cell[-1:] in ",;" or cell[:1] in ",;" for cell in cells) / len(cells)
        if delimiter == SPACES
        else 0
    )
    score: float = even**0.7 * (0.5 + values) * (1 - foreign) * (1 - dangling) * (1 + 0.02 * min(width, 20))
    return score


@dataclass(frozen=True)
class Marks:
    """How the numbers of a source are written."""

    decimal: str = "."
    thousands: str = ""

    def number(self, cell: str) -> str:
        """A cell with a point as its decimal mark; empty when it is no number.

        Examples
        --------
        >>> Marks(",", ".").number("1.234,50"), Marks().number("12 m")
        ('1234.50', '')
        """
        plain = _SPACES.sub("", cell.strip())
        if self.thousands:
            plain = plain.replace(self.thousands, "")
        plain = (
            plain.replace("−", "-").replace(self.decimal, ".")
            if self.decimal != "."
            else plain.replace("−", "-")
        )
        return plain if _NUMBER.fullmatch(plain) else ""


def marks_of(cells: Sequence[str], delimiter: str) -> Marks:
    """The marks in some cells."""
    decimal, thousands = decimal_sign([cell for cell in cells if "," in cell or "." in cell], delimiter)
    return Marks(decimal or ".", thousands)


def decimal_sign(cells: Sequence[str], delimiter: str) -> tuple[str, str]:
    """The decimal sign, empty when no cell shows one, and the sign between thousands."""
    sure = [cell for cell in cells if not _OPEN.fullmatch(cell)]
    grouped = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
    is_shown = any(map(_SURELY_GROUPED.fullmatch, grouped)) and any(map(_SHORT_GROUP.match, grouped))
    if is_shown and not any(map(_COMMA.fullmatch, sure)):
        return ("." if any(map(_POINT.fullmatch, sure)) else ""), ","
    if any(_POINT.fullmatch(cell) or _COMMA.fullmatch(cell) for cell in sure):
        # what could be read in two ways does not count where others can be read in one
        grouped_too = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
        cells = [*sure, *(grouped_too if not any(_COMMA.fullmatch(cell) for cell in sure) else ())]
    point = sum(_POINT.fullmatch(cell) is not None for cell in cells)
    comma = sum(_COMMA.fullmatch(cell) is not None and not _OPEN.fullmatch(cell) for cell in cells) or sum(
        _COMMA.fullmatch(cell) is not None for cell in cells if point == 0
    )
    grouped = [cell for cell in cells if _COMMA_GROUPED.fullmatch(cell)]
    if grouped and point <= comma + len(grouped):
        sign = next(
            (letter for letter in grouped[0] if letter in ". '"), ""
        )  # other signs are read in any case
        return ",", sign
    pointed = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
    if comma and comma >= point and delimiter != ",":
        return ",", ""
    if comma > point and len(pointed) < comma:
        return ",", ""
    if pointed and point:
        return ".", ","
    return ("." if point else ""), ""
