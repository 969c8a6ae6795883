"""Read a folder as a written plan says, with rules written apart from the library: letter by letter, row by row.

It knows the delimited files and the plans of `tests.damage`, and says what the table, the ledgers and the record must be.
"""

import csv
import datetime as dt
import io
import re
import unicodedata
from collections import Counter
from dataclasses import dataclass, field

import integrum as ig

PARTS = ("preamble", "header", "units", "repeated-header", "blank", "comment", "footer", "set-aside", "data")


class Fault(Exception):
    """Why a source is set aside; several codes where either may be found first."""

    def __init__(self, *codes: str) -> None:
        super().__init__(codes)
        self.codes = codes


@dataclass
class Expected:
    """What must come of a source."""

    reasons: tuple[str, ...] = ()
    ledger: Counter[str] = field(default_factory=Counter)
    rows: list[dict[str, str]] = field(default_factory=list)
    aside: list[tuple[int, str, str, str]] = field(default_factory=list)
    unlisted: list[str] = field(default_factory=list)
    left: list[tuple[int, str, str]] = field(default_factory=list)

    def count(self, row: int, part: str, raw: str) -> None:
        """A row that is not in the table."""
        self.ledger[part] += 1
        if part != "blank":
            self.left.append((row, part, raw))


@dataclass
class Record:
    raw: str
    cells: list[str]
    broken: bool = False
    is_comment: bool = False


def decoded(data: bytes, encoding: str) -> str:
    """The text of a file, without a byte order mark at its start."""
    if encoding == "utf-8-sig":
        encoding = "utf-8"
    if encoding == "utf-16":
        encoding = "utf-16-be" if data.startswith(b"\xfe\xff") else "utf-16-le"
    try:
        return data.decode(encoding).removeprefix("\ufeff" if encoding.startswith("utf") else "")
    except UnicodeDecodeError:
        raise Fault("bytes-not-valid") from None


def line_end(text: str, at: int) -> int:
    """How many letters a line end at this place has."""
    return 2 if text.startswith("\r\n", at) else int(text[at : at + 1] in ("\r", "\n") and at < len(text))


class Reader:
    """Reads records from a text, letter by letter."""

    def __init__(self, text: str, layout: ig.Layout) -> None:
        self.text, self.layout, self.at = text, layout, 0
        self.blanks, self.may_end_open = layout.delimiter == " ", False

    def records(self) -> list[Record]:
        found = []
        while self.at < len(self.text):
            found.append(self.record(len(found) + 1))
        return found

    def record(self, number: int) -> Record:
        start, mark = self.at, self.layout.comment_mark
        if mark and self.text.startswith(mark, start):
            end = start
            while end < len(self.text) and not line_end(self.text, end):
                end += 1
            self.at = end + line_end(self.text, end)
            plain = Reader(self.text[start:end], replace_mark(self.layout))
            return Record(self.text[start:end], plain.loose(), is_comment=True)
        cells, broken = self.cells()
        size = line_end(self.text, self.at)
        self.at += size
        return Record(self.text[start : self.at].rstrip("\r\n"), cells, broken)

    def loose(self) -> list[str]:
        """The cells of a comment, in which a quote may be open to its end."""
        self.may_end_open = True
        return self.cells()[0]

    def is_border(self) -> bool:
        here = self.text[self.at : self.at + 1]
        return here == "" or here in "\r\n" or here == self.layout.delimiter or (self.blanks and here == "\t")

    def skip_blanks(self) -> bool:
        start = self.at
        while self.blanks and self.text[self.at : self.at + 1] in (" ", "\t"):
            self.at += 1
        return self.at > start

    def cells(self) -> tuple[list[str], bool]:
        cells, broken = [], False
        self.skip_blanks()
        if self.at >= len(self.text) or line_end(self.text, self.at):
            return [], False
        while True:
            cell, odd = self.cell()
            cells.append(cell)
            broken |= odd
            if self.blanks:
                self.skip_blanks()
                if self.at >= len(self.text) or line_end(self.text, self.at):
                    return cells, broken
            elif self.text[self.at : self.at + 1] == self.layout.delimiter:
                self.at += 1
            else:
                return cells, broken

    def cell(self) -> tuple[str, bool]:
        quote = self.layout.quote
        if quote and self.text.startswith(quote, self.at):
            self.at += 1
            said = self.quoted()
            start = self.at
            while not self.is_border():
                self.at += 1
            return said + self.text[start : self.at], self.at > start
        start = self.at
        while not self.is_border():
            self.at += 1
        return self.text[start : self.at], False

    def quoted(self) -> str:
        """The rest of a quoted cell, and past its closing quote."""
        quote, escape, said = self.layout.quote, self.layout.escape, ""
        while True:
            here = self.text[self.at : self.at + 1]
            if not here and self.may_end_open:
                return said
            if not here:
                raise Fault("quote-not-closed")
            if escape and here == escape:
                run = len(self.text[self.at :]) - len(self.text[self.at :].lstrip(escape))
                if self.text[self.at + run : self.at + run + 1] == quote:
                    said += escape * (run // 2) + quote * (run % 2)
                    self.at += run + run % 2
                else:
                    said += escape * run
                    self.at += run
            elif here == quote:
                if self.text[self.at + 1 : self.at + 2] != quote:
                    self.at += 1
                    return said
                said += quote
                self.at += 2
            else:
                said += here
                self.at += 1


def replace_mark(layout: ig.Layout) -> ig.Layout:
    return ig.Layout(delimiter=layout.delimiter, quote=layout.quote, escape=layout.escape)


def is_empty(cells: list[str]) -> bool:
    return all(not cell.strip() for cell in cells)


def tidy(cells: list[str]) -> list[str]:
    """Names of columns: no two the same."""
    names: list[str] = []
    plain = [" ".join(cell.split()) for cell in cells]
    for place, cell in enumerate(plain, 1):
        base = cell or f"column {place}"
        name, number = base, 2
        while name in names or (name != base and name in plain):
            name, number = f"{base} ({number})", number + 1
        names.append(name)
    return names


def loose(name: str) -> str:
    folded = unicodedata.normalize("NFKC", unicodedata.normalize("NFKC", name).casefold())
    return "".join(
        each
        for each in folded
        if each in "%#&@" or (not each.isspace() and unicodedata.category(each)[0] not in "PCZ")
    )


def bound(names: list[str], plan: ig.Plan) -> tuple[dict[str, int], list[str]]:
    """The position of each column of the plan, and the names that none claims."""
    places: dict[str, int] = {}
    free = []
    for at, name in enumerate(names):
        column = next((one.name for one in plan.columns if name in one.headers), None)
        if column in places:
            raise Fault("header-claimed-twice")
        if column is None:
            free.append(at)
        else:
            places[column] = at
    wanted = {
        at: [
            one.name
            for one in plan.columns
            if loose(names[at]) in map(loose, one.headers) and loose(names[at])
        ]
        for at in free
    }
    for one in plan.columns:
        like = [at for at in free if one.name in wanted[at]]
        if one.name not in places and len(like) == 1 and len(wanted[like[0]]) == 1:
            places[one.name] = like[0]
    unlisted = [names[at] for at in free if at not in places.values()]
    if plan.rules.unlisted == "refuse" and unlisted:
        raise Fault("unlisted-header")
    if any(one.required and one.name not in places for one in plan.columns):
        raise Fault("required-missing")
    if not places and plan.rules.unlisted != "keep":
        raise Fault("header-not-found")
    return places, unlisted


_ERROR = re.compile(r"#(N/A|NAME\?|DIV/0!|REF!|VALUE!|NUM!|NULL!)|Err:[0-9]{3}")


def number(text: str) -> str | None:
    groups = re.fullmatch(r"([+-]?)([1-9][0-9]{0,2}(?: [0-9]{3})+|[1-9][0-9]{0,2}(?:'[0-9]{3})+)(.*)", text)
    if groups:
        text = groups[1] + groups[2].replace(" ", "").replace("'", "") + groups[3]
    found = re.fullmatch(r"([+-]?)([0-9]*)(\.?)([0-9]*)((?:[eE][+-]?[0-9]+)?)", text)
    if not found or not found[2] + found[4]:
        return None
    if abs(float(text)) == float("inf"):
        return None
    fraction = f".{found[4]}" if found[4] else ""
    return found[1].replace("+", "") + (found[2].lstrip("0") or "0") + fraction + found[5]


def value(raw: str, column: ig.Column, layout: ig.Layout) -> tuple[str, bool]:
    """The text in the table, and whether the cell is bad."""
    missing = {*column.missing}
    if column.type in ("number", "integer"):  # -999 is -999.0, too
        for code in column.missing:
            found = re.fullmatch(r"(-?[0-9]+)(?:[.,]([0-9]*))?", code.strip())
            rest = (found[2] or "").rstrip("0") if found else ""
            for zeros in range(4) if found else ():
                part = rest + zeros * "0"
                missing.add(found[1] + (layout.decimal_mark + part if part else ""))
    if not raw or raw.strip() in missing or raw in missing:
        return "", False
    text = raw
    if column.swap or column.case or column.values:
        text = text.strip()
        for old, new in column.swap.items():
            text = text.replace(old, new)
        text = {"lower": text.lower(), "upper": text.upper()}.get(column.case, text)
        text = column.values.get(text, text)
        if text.strip() in missing:
            return "", False
    if column.type == "text":
        return ("", True) if _ERROR.fullmatch(text.strip()) else (text, False)
    text = text.strip()
    if not text:
        return "", False
    point, group = layout.decimal_mark, layout.thousands_mark
    if column.type in ("number", "integer") and (point != "." or group):
        plain = text
        if group and group in text:
            whole = re.match(rf"[+-]?([0-9{re.escape(group)}]+)", text)
            groups = whole[1].split(group) if whole else [""]
            if not 1 <= len(groups[0]) <= 3 or any(len(each) != 3 for each in groups[1:]):
                return "", True
            plain = text[: whole.end()].replace(group, "") + text[whole.end() :] if whole else text
        if point != "." and "." in plain:
            return "", True
        if group and group in plain:
            return "", True
        text = plain.replace(point, ".")
    done = converted(text, column.type)
    return ("", True) if done is None else (done, False)


def converted(text: str, kind: str) -> str | None:
    if kind == "number":
        return number(text)
    if kind == "integer":
        said = number(text)
        if said is None or "e" in said.lower():
            return None
        whole, _, rest = said.partition(".")
        if rest.strip("0") or not -(2**63) <= int(whole) < 2**63:
            return None
        return str(int(whole))
    if kind == "boolean":
        words = {
            "true": "true",
            "yes": "true",
            "1": "true",
            "false": "false",
            "no": "false",
            "0": "false",
            "ja": "true",
        }
        return words.get(text.casefold())
    day = r"([0-9]{4})-([0-9]{2})-([0-9]{2})"
    if kind == "datetime":
        end = re.fullmatch(day + r"[ T]24:00", text)
        if end:
            after = dt.date(int(end[1]), int(end[2]), int(end[3])) + dt.timedelta(1)
            return f"{after.isoformat()}{text[10]}00:00"
        text = re.sub(r"^([0-9-]{10} )([0-9]:)", r"\g<1>0\2", text)
    found = re.fullmatch(day + r"(?:([ T])([0-9]{2}):([0-9]{2})(?::([0-9]{2})(?:\.([0-9]+))?)?)?", text)
    if not found:
        return None
    year, month, date, between, hour, minute, second, fine = found.groups()
    try:
        dt.datetime(int(year), int(month), int(date), int(hour or 0), int(minute or 0), int(second or 0))
    except ValueError:
        return None
    if kind == "date":
        midnight = not between or ({hour, minute, second or "00"} == {"00"} and not (fine or "").strip("0"))
        return text[:10] if midnight else None
    if not between:
        return f"{text} 00:00"
    return text[: len("2024-05-01 12:30:05.123456")]


def read(data: bytes, plan: ig.Plan) -> Expected:
    """What must come of a file."""
    layout = plan.sources[0].layout
    expected = Expected()
    try:
        text = decoded(data, layout.encoding)
        if not text.strip(" \t\r\n\v\f"):
            raise Fault("empty-source")
        _read(text, plan, layout, expected)
    except Fault as fault:
        codes = fault.codes
        if codes == (
            "bytes-not-valid",
        ):  # a quote that is open, or a header that is wrong, may be met before
            codes = (*codes, "quote-not-closed", "header-not-found", "no-header", "empty-source")
            codes += ("unlisted-header", "required-missing", "header-claimed-twice")
        elif (
            plan.rules.bad_values == "set-source-aside"
        ):  # all values are looked at before the header is held against the plan
            codes = (*codes, "bad-value")
        return Expected(codes)
    return expected


def _read(text: str, plan: ig.Plan, layout: ig.Layout, expected: Expected) -> None:
    open_quote = False
    reader, records = Reader(text, layout), []
    while reader.at < len(text):
        start = reader.at
        try:
            records.append(reader.record(len(records) + 1))
        except Fault:
            open_quote = True
            text = text[:start]
            break
    ledger = expected.ledger
    ledger["rows"] = len(records)

    def above(first: int, rows: list[Record]) -> None:
        for row, record in enumerate(rows, first):
            part = "comment" if record.is_comment else "blank" if is_empty(record.cells) else "preamble"
            expected.count(row, part, record.raw)

    heads: list[list[str]] = []
    spare: set[int] = set()
    if layout.header_row == "none":
        start = min((layout.first_row or 1) - 1, len(records))
        while start < len(records) and records[start].is_comment:
            start += 1
        above(1, records[:start])
        first = records[start].cells if start < len(records) else []
        if start >= len(records) and open_quote:
            raise Fault("quote-not-closed")
        given = [*layout.header]
        names = tidy(given + [""] * (max(len(first), len(given)) - len(given)))
    else:
        at = int(layout.header_row) - 1
        below = at + layout.header_rows + layout.units_row
        if len(records) < below:
            raise Fault("quote-not-closed", "header-not-found") if open_quote else Fault("header-not-found")
        heads = [record.cells for record in records[at:below]]
        if layout.comment_mark and heads[0]:
            heads[0] = [heads[0][0].removeprefix(layout.comment_mark).lstrip(), *heads[0][1:]]
        named = heads[: layout.header_rows]
        if all(is_empty(row) for row in named):
            raise Fault("no-header")
        width = max(map(len, named))
        filled = []
        for place, row in enumerate(named):
            cells = [*row, *[""] * (width - len(row))]
            for column in range(1, width if place < len(named) - 1 else 0):
                cells[column] = cells[column] or cells[column - 1]
            filled.append(cells)
        joined = [
            " ".join(dict.fromkeys(cell.strip() for cell in column if cell.strip()))
            for column in zip(*filled, strict=True)
        ]
        names = tidy(joined)
        last = max((place for place, cell in enumerate(filled[-1]) if cell.strip()), default=width - 1)
        spare = set(range(last + 1, width))
        start = max(below, (layout.first_row or 0) - 1)
        above(1, records[:at])
        for row, record in enumerate(records[at:below], at + 1):
            expected.count(row, "header" if row <= at + layout.header_rows else "units", record.raw)
        above(below + 1, records[below:start])
    if open_quote:
        raise Fault("quote-not-closed")
    first_rows = [record.cells for record in records[start : start + 2000] if not record.is_comment]
    with_value = [at for at in spare for cells in first_rows if at < len(cells) and cells[at].strip()]
    unused = {at for at in spare if at > max(with_value, default=-1)}
    least = len(names) - len(spare)
    places, expected.unlisted = bound([name for at, name in enumerate(names) if at not in unused], plan)
    bad_anywhere = _rows(
        records, min(start, len(records)), names, unused, least, places, heads, plan, layout, expected
    )
    if bad_anywhere and plan.rules.bad_values == "set-source-aside":
        raise Fault("bad-value")


def _rows(
    records: list[Record],
    start: int,
    names: list[str],
    spare: set[int],
    least: int,
    places: dict[str, int],
    heads: list[list[str]],
    plan: ig.Plan,
    layout: ig.Layout,
    expected: Expected,
) -> bool:
    ledger, width, any_bad, ended = expected.ledger, len(names), False, False
    for row, record in enumerate(records[start:], start + 1):
        first = next((cell.strip() for cell in record.cells if cell.strip()), "")
        ended |= bool(layout.last_row and row > layout.last_row)
        ended |= bool({first, re.split("[:=]", first)[0].strip()} & set(layout.footer_from))
        if ended:
            expected.count(row, "footer", record.raw)
        elif record.is_comment:
            expected.count(row, "comment", record.raw)
        elif record.broken:
            _aside(expected, row, "", "text-after-quote", record.raw)
        elif is_empty(record.cells):
            ledger["blank"] += 1
        elif any(record.cells[width:]):
            _aside(expected, row, "", "row-too-long", record.raw)
        elif record.cells in heads and len(record.cells) != width and any(record.cells):
            expected.count(row, "repeated-header", record.raw)
        elif len(record.cells) < least and layout.short_rows != "pad":
            _aside(expected, row, "", "row-too-short", record.raw)
        else:
            cells = (record.cells + [""] * width)[:width]
            if any(_repeats(cells, head, width) for head in heads):
                expected.count(row, "repeated-header", record.raw)
            elif any(cells[at] for at in spare):
                _aside(expected, row, "", "row-too-long", record.raw)
            else:
                any_bad |= _data(expected, row, record, cells, names, places, plan, layout)
    return any_bad


def _repeats(cells: list[str], head: list[str], width: int) -> bool:
    same = (head + [""] * width)[:width]
    if sum(map(bool, same)) > 1:
        cells, same = [cell.lower() for cell in cells], [cell.lower() for cell in same]
    glued = [f"\ufeff{same[0]}", f'\ufeff"{same[0]}"']
    return any(same) and (cells == same or (cells[1:] == same[1:] and cells[0] in glued))


def _aside(expected: Expected, row: int, column: str, code: str, raw: str) -> None:
    expected.count(row, "set-aside", raw)
    expected.aside.append((row, column, code, raw))


def _data(
    expected: Expected,
    row: int,
    record: Record,
    cells: list[str],
    names: list[str],
    places: dict[str, int],
    plan: ig.Plan,
    layout: ig.Layout,
) -> bool:
    done = {"source_row": str(row)}
    bad = []
    for column in plan.columns:
        if column.name in places:
            raw = cells[places[column.name]]
            done[column.name], is_bad = value(raw, column, layout)
            if is_bad:
                bad.append((column.name, raw))
    if plan.rules.unlisted == "keep":
        for name in expected.unlisted:
            done[name], is_bad = value(cells[names.index(name)], ig.Column(name), layout)
            if is_bad:
                bad.append((name, cells[names.index(name)]))
    if bad and plan.rules.bad_values == "set-row-aside":
        _aside(expected, row, ", ".join(name for name, _ in bad), "bad-value", record.raw)
        return True
    expected.aside += [(row, name, "bad-value", raw) for name, raw in bad]
    expected.rows.append(done)
    expected.ledger["data"] += 1
    return bool(bad)


def read_csv(data: bytes) -> list[dict[str, str]]:
    """An output as rows of texts."""
    return list(csv.DictReader(io.StringIO(data.decode(), newline="")))
