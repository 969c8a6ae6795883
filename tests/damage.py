"""Small folders under written plans, and the ways in which real files come damaged; all from a seed."""

import random
from collections.abc import Callable
from dataclasses import dataclass

import integrum as ig

KINDS = {
    "lake": "text",
    "day": "date",
    "at": "datetime",
    "depth": "number",
    "count": "integer",
    "clear": "boolean",
}
ODD = {
    "text": [
        "Ambermere",
        "",
        " quillon",
        "n/a",
        "#N/A",
        "it's",
        "5%",
        "=1+1",
        "007",
        "\u00a0",
        "Brén",
        "x\u2028y",
        "a\vb",
    ],
    "date": [
        "2024-05-01",
        "2024-02-30",
        "0000-01-01",
        "2024-05-01 00:00",
        "2024-05-01T00:00:00.0",
        "01.05.2024",
        "2024-05-01 12:00",
        " 1999-12-31 ",
        "٢٠٢٤-05-01",
    ],
    "datetime": [
        "2024-05-01 12:30",
        "2024-05-01",
        "2024-05-01T12:30:05",
        "2024-05-01 24:00",
        "2024-05-01 12:30:05.1234567",
        "2024-05-01 1:30",
        "0000-01-01 00:00",
        "9999-12-31 23:59:59.999999",
    ],
    "number": [
        "7.20",
        "+1",
        "-0",
        "-0.0",
        ".5",
        "5.",
        "1.e5",
        "1e400",
        "1e5",
        "007",
        "--1",
        "1 000",
        "-999",
        " -999 ",
        "n/a",
        "nan",
        "0x10",
        "1_0",
        "",
        "1.2.3",
        "٣",
        "-.5e-3",
        "00.10",
        "9" * 30,
    ],
    "integer": [
        "7",
        "-0",
        "+5",
        "5.0",
        "5.5",
        "9223372036854775807",
        "9223372036854775808",
        "-9223372036854775808",
        "007",
        "1e3",
        "n/a",
        "12345678901234567890.0",
        "-999",
    ],
    "boolean": ["true", "FALSE", "yes", "No", "1", "0", "2", "ja", "", " true ", "ſ"],
}


@dataclass
class Case:
    """Files by name, the plan for them, what was done to them, and how large pieces shall be."""

    files: dict[str, bytes]
    plan: ig.Plan
    ways: list[str]
    piece: int


def case(seed: int) -> Case:
    """The case of a seed."""
    chance = random.Random(seed)
    layout = _layout(chance)
    plan = _plan(chance, layout)
    files, ways = {}, []
    for number in range(chance.randint(1, 3)):
        source = _Source(chance, plan, layout)
        for _ in range(chance.choice([0, 1, 1, 2, 3, 4])):
            way = chance.choice(list(WAYS))
            WAYS[way](source)
            ways.append(way)
        files[f"{number}.csv"] = source.data()
    if chance.random() < 0.1:
        files["twin.csv"] = files["0.csv"]
        ways.append("twin")
    return Case(files, plan, ways, chance.choice([7, 40, 200, 4 << 20]))


def _layout(chance: random.Random) -> ig.Layout:
    say: dict[str, object] = {"delimiter": chance.choice([",", ",", ";", "\t", "|", " "])}
    if chance.random() < 0.15:
        say["quote"] = "'"
    elif chance.random() < 0.1:
        say["quote"] = ""
    if chance.random() < 0.15 and say.get("quote", '"'):
        say["escape"] = "\\"
    if chance.random() < 0.2 and say["delimiter"] != ",":
        say["decimal_mark"] = ","
        if chance.random() < 0.5:
            say["thousands_mark"] = chance.choice([".", "'", "\u00a0"])
    elif chance.random() < 0.1:
        say["thousands_mark"] = chance.choice([",", "'"])
    say["encoding"] = chance.choice(["utf-8"] * 6 + ["utf-16", "cp1252", "ascii", "utf-8-sig"])
    if chance.random() < 0.3:
        say["comment_mark"] = chance.choice(["#", "//", '"', "%%"])
    if chance.random() < 0.3:
        say["footer_from"] = chance.choice([["Total"], ["Total", "Note"], ["end of"]])
    if chance.random() < 0.3:
        say["units_row"] = True
    if chance.random() < 0.15:
        say["short_rows"] = "pad"
    top = chance.choice([0, 0, 0, 1, 3])
    if chance.random() < 0.15:
        say |= {"header_row": "none", "units_row": False, "header": list(KINDS)}
        if chance.random() < 0.4:
            say["first_row"] = top + 1
    else:
        say["header_row"] = top + 1
        if chance.random() < 0.15:
            say["header_rows"] = 2
        if chance.random() < 0.15:
            say["first_row"] = top + chance.randint(2, 6)
    if chance.random() < 0.15:
        say["last_row"] = top + chance.randint(4, 12)
    return ig.Layout(**say)


def _plan(chance: random.Random, layout: ig.Layout) -> ig.Plan:
    columns = []
    for name, kind in KINDS.items():
        more: dict[str, object] = {}
        if chance.random() < 0.4:
            more["missing"] = chance.sample(["n/a", "-999", "-999,0", "N/A", "", "2", "none"], 2)
        if kind == "text" and chance.random() < 0.4:
            more |= {
                "case": chance.choice(["", "lower", "upper"]),
                "swap": {"-": " "},
                "values": {"brén": "Bren"},
            }
        if chance.random() < 0.3:
            more["also"] = [f"{name} (m)", f"The {name}"]
        columns.append(ig.Column(name, kind, required=chance.random() < 0.05, **more))
    rules = ig.Rules(
        chance.choice(["report", "report", "keep", "refuse"]),
        chance.choice(["blank", "blank", "set-row-aside", "set-source-aside"]),
        chance.choice(["set-aside", "keep"]),
    )
    return ig.Plan([ig.Sources("in", layout=layout)], columns, rules=rules)


class _Source:
    """A file while it is made: lines as they will be written."""

    def __init__(self, chance: random.Random, plan: ig.Plan, layout: ig.Layout) -> None:
        self.chance, self.layout = chance, layout
        self.names = list(KINDS)
        if layout.has_header and chance.random() < 0.3:
            chance.shuffle(self.names)
        self.columns = list(self.names)
        if chance.random() < 0.1 and plan.columns[0].headers:
            self.names = [f"The {name}" if chance.random() < 0.3 else name for name in self.names]
        self.end, self.last_end, self.all_quoted, self.mark, self.top = "\n", True, False, "", 0
        self.lines = (
            [f"Site: {chance.choice(['A', 'B'])}", "", "depth in m"][: int(layout.header_row) - 1]
            if layout.has_header
            else []
        )
        self.lines += [""] * (int(layout.header_row) - 1 - len(self.lines) if layout.has_header else 0)
        self.header = len(self.lines)
        if layout.has_header:
            self.lines += [self.line(self.names)] * layout.header_rows
            if layout.units_row:
                self.units = len(self.lines)
                self.lines.append(self.line([{"depth": "m"}.get(name, "-") for name in self.columns]))
        self.first = len(self.lines)
        self.lines += [self.line(self.row(odd=0.1)) for _ in range(chance.randint(0, 14))]
        self.after: list[Callable[[bytes], bytes]] = []

    def row(self, odd: float = 1.0) -> list[str]:
        cells = []
        for column in self.columns:
            kind = KINDS.get(column, "text")
            some = ODD[kind]
            cell = self.chance.choice(some) if self.chance.random() < odd else some[0]
            if (
                kind in ("number", "integer")
                and self.layout.decimal_mark == ","
                and self.chance.random() < 0.8
            ):
                cell = cell.replace(".", ",")
            if kind == "number" and self.layout.thousands_mark and self.chance.random() < 0.3:
                group = self.layout.thousands_mark
                cell = self.chance.choice(
                    [
                        f"1{group}234",
                        f"12{group}34",
                        f"1{group}234{group}567",
                        f"{group}123",
                        f"1234{group}567",
                        f"1{group}234{self.layout.decimal_mark}5",
                    ]
                )
            cells.append(cell)
        return cells

    def written(self, cell: str) -> str:
        layout = self.layout
        quote, special = layout.quote, (layout.delimiter, "\n", "\r", layout.quote)
        needs = any(each and each in cell for each in special) or self.all_quoted
        if layout.delimiter == " ":
            needs = needs or not cell or " " in cell or "\t" in cell
        if not quote:
            return cell.replace(layout.delimiter, "_") if layout.delimiter != "," else cell
        if not needs:
            return cell
        inner = (
            cell.replace(quote, layout.escape + quote) if layout.escape else cell.replace(quote, quote * 2)
        )
        return f"{quote}{inner}{quote}"

    def line(self, cells: list[str]) -> str:
        return self.layout.delimiter.join(map(self.written, cells))

    def place(self) -> int:
        return self.chance.randint(min(self.first, len(self.lines)), len(self.lines))

    def some(self) -> int | None:
        return self.chance.randrange(self.first, len(self.lines)) if len(self.lines) > self.first else None

    def insert(self, *lines: str) -> None:
        at = self.place()
        self.lines[at:at] = lines

    def change(self, how: Callable[[str], str]) -> None:
        at = self.some()
        if at is not None:
            self.lines[at] = how(self.lines[at])

    def change_header(self, how: Callable[[list[str]], list[str]]) -> None:
        if self.layout.has_header and len(self.lines) >= self.header + self.layout.header_rows:
            self.names = how(self.names)
            for at in range(self.header, self.header + self.layout.header_rows):
                self.lines[at] = self.line(self.names)

    def data(self) -> bytes:
        encoding = self.layout.encoding
        text = "".join(
            line + (self.chance.choice(["\n", "\r\n", "\r"]) if self.end == "mixed" else self.end)
            for line in self.lines
        )
        if not self.last_end:
            text = text.removesuffix("\n").removesuffix("\r")
        data = (self.mark + text).encode(encoding, "replace")
        for each in self.after:
            data = each(data)
        return data


WAYS: dict[str, Callable[[_Source], object]] = {}


def way(name: str) -> Callable[[Callable[[_Source], object]], Callable[[_Source], object]]:
    def taken(how: Callable[[_Source], object]) -> Callable[[_Source], object]:
        WAYS[name] = how
        return how

    return taken


def _sep(one: _Source) -> str:
    return one.layout.delimiter


def _q(one: _Source) -> str:
    return one.layout.quote or '"'


WAYS |= {
    "a blank line": lambda one: one.insert(""),
    "many blank lines": lambda one: one.insert(*[""] * 30),
    "a line of blanks": lambda one: one.insert("   "),
    "a line of no-break spaces": lambda one: one.insert("\u00a0" + _sep(one) + "\u2003"),
    "a line of delimiters": lambda one: one.insert(
        _sep(one) * one.chance.choice([2, len(one.columns) - 1, 9])
    ),
    "a line of quoted nothing": lambda one: one.insert(_sep(one).join([_q(one) * 2] * len(one.columns))),
    "the header again": lambda one: one.insert(one.line(one.names)),
    "the header again but for a cell": lambda one: one.insert(one.line([*one.names[:-1], "other"])),
    "the header again, shorter": lambda one: one.insert(one.line(one.names[:-1])),
    "the units again": lambda one: one.insert(
        one.lines[one.units] if 0 < getattr(one, "units", 0) < len(one.lines) else one.line(["-"] * 6)
    ),
    "a row like the units": lambda one: one.insert(one.line(["-"] * (len(one.columns) - 1) + ["m"])),
    "a comment": lambda one: one.insert((one.layout.comment_mark or "#") + " a, b; c"),
    "a comment with an open quote": lambda one: one.insert(
        (one.layout.comment_mark or "#") + f" x{_sep(one)}{_q(one)}y"
    ),
    "a comment behind a blank": lambda one: one.insert(" " + (one.layout.comment_mark or "#") + " x"),
    "a comment on top": lambda one: one.lines.insert(
        0, (one.layout.comment_mark or "#") + f"{_sep(one)}{_q(one)}top"
    ),
    "a footer": lambda one: one.insert("Total" + _sep(one) + "12", "Note: x"),
    "a footer in quotes": lambda one: one.insert(f" {_q(one)}Total{_q(one)}{_sep(one)}1"),
    "a footer behind an empty cell": lambda one: one.insert(f"{_sep(one)}Total"),
    "a word like a footer": lambda one: one.insert(
        one.line(["total", *one.row()[1:]]), one.line(["A Total", *one.row()[1:]])
    ),
    "surplus empty cells": lambda one: one.change(lambda line: line + _sep(one) * 3),
    "a surplus cell": lambda one: one.change(lambda line: line + _sep(one) + "x"),
    "a surplus blank cell": lambda one: one.change(lambda line: line + _sep(one) + _q(one) + " " + _q(one)),
    "a row that is cut": lambda one: one.change(lambda line: line[: len(line) // 2]),
    "a row of one cell": lambda one: one.insert("alone"),
    "text behind a quote": lambda one: one.insert(
        one.line(["a", *one.row()[1:]]).replace("a", f"{_q(one)}a{_q(one)}b", 1)
    ),
    "a lone quote": lambda one: one.change(lambda line: line.replace("e", "e" + _q(one), 1)),
    "a quote that is never closed": lambda one: one.change(lambda line: _q(one) + line),
    "a line break in a cell": lambda one: one.insert(one.line(["a\nb", *one.row()[1:]])),
    "a carriage return in a cell": lambda one: one.insert(one.line(["a\rb", *one.row()[1:]])),
    "a line break and a comment in a cell": lambda one: one.insert(
        one.line([f"a\n{one.layout.comment_mark or '#'}b", *one.row()[1:]])
    ),
    "quotes in a cell": lambda one: one.insert(one.line([f"a{_q(one)}b{_q(one)}", *one.row()[1:]])),
    "a cell of quotes": lambda one: one.insert(one.line([_q(one), *one.row()[1:]])),
    "backslashes": lambda one: one.insert(
        one.line(["C:\\temp", *one.row()[1:]]), one.line(["dir\\", *one.row()[1:]])
    ),
    "a backslash at the end of a line": lambda one: one.change(lambda line: line + "\\"),
    "an escaped quote": lambda one: one.insert(f"{_q(one)}a\\{_q(one)}b{_q(one)}{_sep(one)}1"),
    "CR LF": lambda one: setattr(one, "end", "\r\n"),
    "CR": lambda one: setattr(one, "end", "\r"),
    "mixed line ends": lambda one: setattr(one, "end", "mixed"),
    "no end of the last line": lambda one: setattr(one, "last_end", False),
    "all quoted": lambda one: (setattr(one, "all_quoted", True), one.insert(one.line(one.row()))),
    "a byte order mark": lambda one: setattr(
        one, "mark", "" if one.layout.encoding in ("utf-16", "utf-8-sig") else "\ufeff"
    ),
    "a byte order mark inside": lambda one: one.insert("\ufeff" + one.line(one.row(0.2))),
    "glued to itself": lambda one: one.lines.extend(
        [("\ufeff" if one.chance.random() < 0.5 else "") + one.lines[0], *one.lines[1:]] if one.lines else []
    ),
    "a byte that is no text": lambda one: one.after.append(lambda data: _with(one, data, b"\xff")),
    "a zero byte": lambda one: one.change(lambda line: line.replace("e", "\0", 1)),
    "a delimiter behind each row": lambda one: one.lines.__setitem__(
        slice(one.first, None), [line + _sep(one) for line in one.lines[one.first :]]
    ),
    "blanks around cells": lambda one: one.insert(f"{_sep(one)}".join(f"  {cell} " for cell in one.row(0.3))),
    "an odd row": lambda one: one.insert(one.line(one.row())),
    "many odd rows": lambda one: one.insert(*(one.line(one.row(0.5)) for _ in range(12))),
    "a missing value with blanks": lambda one: one.insert(
        one.line([" n/a ", *["-999 "] * (len(one.columns) - 1)])
    ),
    "an error of a spreadsheet": lambda one: one.insert(
        one.line(["#DIV/0!", *[" #N/A"] * (len(one.columns) - 1)])
    ),
    "two lines swapped": lambda one: one.lines.append(one.lines.pop(one.place() - 1)) if one.lines else None,
    "a row twice": lambda one: one.change(lambda line: line + "\n" + line),
    "cut off": lambda one: one.after.append(lambda data: data[: one.chance.randrange(len(data) + 1)]),
    "emptied": lambda one: one.lines.clear(),
    "only the header": lambda one: one.lines.__delitem__(slice(one.first, None)),
    "the top is gone": lambda one: one.lines.__delitem__(slice(0, one.chance.randint(1, 3))),
    "a column more": lambda one: one.change_header(lambda names: [*names, "battery"]),
    "a column less": lambda one: one.change_header(lambda names: names[:-1]),
    "names written otherwise": lambda one: one.change_header(
        lambda names: [name.upper().replace("E", "e") + " " for name in names]
    ),
    "a name twice": lambda one: one.change_header(lambda names: [*names[:-1], names[0]]),
    "an empty name": lambda one: one.change_header(lambda names: ["", *names[1:]]),
    "empty names at the end": lambda one: one.change_header(lambda names: [*names, "", ""]),
    "unknown names": lambda one: one.change_header(lambda names: [f"x{name}" for name in names]),
    "a long cell": lambda one: one.insert(one.line(["x" * 3000, *one.row()[1:]])),
    "line ends of other scripts": lambda one: one.insert(
        one.line(["a\u2028b\x85c\x0bd\x1ce", *one.row()[1:]])
    ),
    "a mark of no width": lambda one: one.insert(one.line(["a\u200b", *one.row()[1:]])),
    "a letter that is another": lambda one: one.change(lambda line: _flip(one, line)),
    "the decimal mark of others": lambda one: one.insert(
        one.line(["a", *["1,5" if one.layout.decimal_mark == "." else "1.5"] * 5])
    ),
}


def _with(one: _Source, data: bytes, more: bytes) -> bytes:
    at = one.chance.randrange(len(data) + 1)
    return data[:at] + more + data[at:]


def _flip(one: _Source, line: str) -> str:
    at = one.chance.randrange(len(line) + 1)
    return (
        line[:at]
        + one.chance.choice(['"', "'", ",", ";", "\\", "#", "\r", "\t", "x", "\u00a0"])
        + line[at + 1 :]
    )
