"""Clean tables of made-up subjects, split into sources in which names change, come and go, with the truth kept."""

from __future__ import annotations

import random
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import exp, pi, sin

from subjects import COMMON, TUNED, UNSEEN

WORDS = (
    "bloom",
    "calm",
    "windy",
    "ice",
    "gap",
    "low",
    "high",
    "repaired",
    "new",
    "cable",
    "drift",
    "quiet",
    "broken",
)
WORDY = (
    "{} of sample",
    "measured {}",
    "{} value",
    "field {}",
    "{} reading",
    "sample {}",
    "{} in field",
    "lab {}",
)
CODED = ("v", "q", "col_", "P", "var")
ERAS = (1, 1, 2, 2, 3, 4)


@dataclass(frozen=True)
class Line:
    """A column of a subject."""

    names: tuple[str, ...]
    kind: str
    unit: str


@dataclass(frozen=True)
class Part:
    """One source: its header, what each cell truly is, its rows, and whether the header stands in the file."""

    header: tuple[str, ...]
    truth: tuple[str, ...]
    units: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    has_header: bool = True


def lines_of(text: str) -> list[Line]:
    made = []
    for line in text.strip().splitlines():
        names, kind, unit = (each.strip() for each in line.split("|"))
        made.append(Line(tuple(each.strip() for each in names.split(";")), kind, unit))
    return made


def subjects(seed: int) -> Mapping[str, str]:
    """Subjects that were looked at in tuning, for seeds below 100,000; others for those above."""
    return TUNED if seed < 100_000 else UNSEEN


def make(seed: int, subject: str = "") -> list[Part]:
    """The sources of one table, in their order."""
    return _Table(random.Random(seed), subjects(seed), subject).parts()


class _Table:
    def __init__(
        self, chance: random.Random, subjects: Mapping[str, str], subject: str, strange: bool = False
    ) -> None:
        self.chance, self.subjects, self.strange = chance, subjects, strange
        name = self.subject = subject or chance.choice(sorted(subjects))
        own, common = lines_of(subjects[name]), lines_of(COMMON)
        self.small = chance.random() < 0.25
        count = chance.randint(2, 5) if self.small else chance.randint(6, 40)
        lines = chance.sample(own, min(len(own), max(2, count)))
        lines += [] if strange else chance.sample(common, min(len(common), max(2, count // 4)))
        if self.small:
            chance.shuffle(lines)
        if chance.random() < 0.5:
            order = {line: at for at, line in enumerate([*common, *own])}
            lines.sort(key=lambda line: order[line])
        self.lines = lines[:count]
        self.sources = chance.randint(2, 8) if self.small else round(exp(chance.uniform(1.6, 4.1)))
        self.eras = min(chance.choice(ERAS), self.sources)
        self.mixed = chance.random() < 0.2
        self.renaming = chance.choice([0.1, 0.25, 0.5, 0.8])
        self.taken: dict[str, str] = {}
        self.codes = {line: self._codes(line) for line in self.lines}

    def parts(self) -> list[Part]:
        chance = self.chance
        names: list[dict[Line, tuple[str, str]]] = []
        for era in range(self.eras):
            names.append(self._names(names[-1] if era else None))
        orders = [self._order(era) for era in range(self.eras)]
        self._false_friends(names, orders)
        second_kind = self._second_kind()
        cuts = sorted(chance.sample(range(1, self.sources), self.eras - 1)) if self.eras > 1 else []
        headless = chance.randrange(self.eras) if self.eras > 1 and chance.random() < 0.12 else -1
        rare = {line for line in self.lines if chance.random() < 0.1}
        made = []
        for number in range(self.sources):
            era = sum(number >= cut for cut in cuts)
            if self.mixed:
                era = chance.randrange(self.eras)
            kind = second_kind.get(number % 3 == 0, set(self.lines))
            there = [
                line
                for line in orders[era]
                if line in names[era] and line in kind and not (line in rare and chance.random() < 0.4)
            ]
            if len(there) < 2:
                there = [line for line in orders[era] if line in names[era]]
            header = tuple(names[era][line][0] for line in there)
            units = tuple(names[era][line][1] for line in there)
            rows = self._rows(there, number, era, names[era])
            if era == headless:
                header = tuple(f"column {at}" for at in range(1, len(there) + 1))
                units = ("",) * len(there)
            truth = tuple(line.names[0] for line in there)
            made.append(Part(header, truth, units, rows, era != headless))
        return self._with_strangers(made)

    def _with_strangers(self, made: list[Part]) -> list[Part]:
        """In some folders there are sources of another data set, which has nothing to do with this one."""
        chance = self.chance
        if self.strange or chance.random() > 0.2:
            return made
        other = _Table(
            chance, self.subjects, chance.choice(sorted(set(self.subjects) - {self.subject})), strange=True
        )
        number = chance.randint(1, max(1, len(made) // 2))
        taken = {name for part in made for name in map(_core, part.header)}
        free = [
            part for part in other.parts() if part.has_header and not taken & set(map(_core, part.header))
        ]
        for part in free[:number]:
            made.insert(chance.randint(0, len(made)), part)
        return made

    def _second_kind(self) -> dict[bool, set[Line]]:
        """In some folders a third of the sources is of another kind, which shares only a few columns with the others."""
        if self.chance.random() > 0.15 or len(self.lines) < 8:
            return {}
        own = {line: self.chance.random() for line in self.lines}
        return {
            True: {line for line, share in own.items() if share < 0.55},
            False: {line for line, share in own.items() if share > 0.4},
        }

    def _names(self, before: Mapping[Line, tuple[str, str]] | None) -> dict[Line, tuple[str, str]]:
        """What each column is called in an era, and its unit where a row of units says it."""
        chance = self.chance
        style, unit_style = chance.choice(STYLES), chance.choice(UNIT_STYLES)
        made: dict[Line, tuple[str, str]] = {}
        coded = chance.choice(CODED) if chance.random() < 0.04 else ""
        for at, line in enumerate(self.lines, 1):
            if coded:
                made[line] = (f"{coded}{at}", "")
                continue
            if before is not None and chance.random() < 0.12:
                continue
            if before is not None and line in before and chance.random() > self.renaming:
                made[line] = before[line]
                continue
            for _ in range(8):
                plain = line.names[0] if chance.random() < 0.35 else chance.choice(line.names)
                if chance.random() < 0.12:
                    plain = shortened(plain, chance)
                elif chance.random() < 0.03:
                    plain = mistyped(plain, chance)
                elif chance.random() < 0.08:
                    plain = chance.choice(WORDY).format(plain)
                name = style(plain)
                unit = ""
                if line.unit and unit_style and unit_style != "row":
                    name = with_unit(name, line.unit, unit_style)
                elif line.unit and unit_style == "row":
                    unit = line.unit
                if self.taken.setdefault(_core(plain), line.names[0]) == line.names[0]:
                    made[line] = (name, unit)
                    break
        return made

    def _order(self, era: int) -> list[Line]:
        lines = list(self.lines)
        if era and self.chance.random() < 0.35:
            for _ in range(self.chance.randint(1, 6)):
                at = self.chance.randrange(len(lines))
                line = lines.pop(at)
                lines.insert(self.chance.randrange(len(lines) + 1), line)
        elif self.chance.random() < 0.1:
            self.chance.shuffle(lines)
        return lines

    def _false_friends(self, names: list[dict[Line, tuple[str, str]]], orders: list[list[Line]]) -> None:
        """Two columns of one kind of which one stops where the other begins, though they are not the same."""
        if self.eras < 2:
            return
        for _ in range(self.chance.choice([0, 1, 1] if self.small else [0, 1, 2, 3, 5, 8])):
            one = self.chance.choice(self.lines)
            like = [each for each in self.lines if each is not one and each.kind[0] == one.kind[0]]
            if not like:
                continue
            words = set(" ".join(one.names).split())
            like.sort(key=lambda each: -len(words & set(" ".join(each.names).split())))
            other = like[0] if self.chance.random() < 0.7 else self.chance.choice(like)
            cut = self.chance.randrange(1, self.eras)
            for era, there in enumerate(names):
                there.pop(one if era >= cut else other, None)
            if self.chance.random() < 0.6:  # it even stands in the same place
                for order in orders:
                    order.remove(other)
                    order.insert(order.index(one) + 1, other)

    def _codes(self, line: Line) -> list[str]:
        kind = line.kind
        if kind.startswith("k "):
            pattern = kind[2:]
            return [
                "".join(
                    self.chance.choice("ABCDEFGHKLMNPRSTUVWZ")
                    if c == "A"
                    else self.chance.choice("0123456789")
                    if c == "9"
                    else c
                    for c in pattern
                )
                for _ in range(40)
            ]
        if kind.startswith("c "):
            return kind[2:].split(",")
        return []

    def _rows(
        self, there: list[Line], number: int, era: int, names: Mapping[Line, tuple[str, str]]
    ) -> tuple[tuple[str, ...], ...]:
        chance = self.chance
        size = chance.randint(1, 6) if self.small else chance.randint(6, 30)
        start = datetime(2019, 1, 5) + timedelta(days=30 * number)
        columns = [self._cells(line, size, number, start) for line in there]
        return tuple(zip(*columns, strict=True))

    def _cells(self, line: Line, size: int, number: int, start: datetime) -> list[str]:
        chance, kind, *rest = self.chance, *line.kind.split(" ", 1)
        season = sin(2 * pi * number / 12)
        gap = 0.0 if chance.random() < 0.7 else chance.choice([0.05, 0.3])
        cells = []
        few = (
            chance.sample(self.codes[line], min(len(self.codes[line]), 8))
            if kind == "k"
            else self.codes[line]
        )
        own = chance.gauss(0, 0.3)
        for at in range(size):
            if chance.random() < gap:
                cells.append("")
            elif kind in "nl":
                one, two, digits = rest[0].split()
                mean, sd = float(one), float(two)
                if kind == "n":
                    value = mean + sd * (0.5 * season + own + chance.gauss(0, 0.8))
                    value = abs(value) if mean > 0 and mean - 3 * sd < 0 else value
                else:
                    value = mean * exp(sd * (0.3 * season + own + chance.gauss(0, 0.9)))
                cells.append(f"{value:.{digits}f}")
            elif kind == "i":
                least, most = map(int, rest[0].split())
                cells.append(str(chance.randint(least, most)))
            elif kind in "ck":
                cells.append(chance.choice(few))
            elif kind == "day":
                cells.append((start + timedelta(days=at)).strftime("%Y-%m-%d"))
            elif kind == "moment":
                cells.append((start + timedelta(hours=at)).strftime("%Y-%m-%d %H:%M"))
            elif kind == "clock":
                cells.append(f"{chance.randint(6, 19):02}:{chance.choice((0, 10, 15, 30, 45)):02}")
            elif kind == "yes":
                cells.append(chance.choice(("true", "false")))
            else:
                cells.append(
                    " ".join(chance.sample(WORDS, chance.randint(1, 4))) if chance.random() < 0.6 else ""
                )
        return cells


def snake(name: str) -> str:
    return name.replace(" ", "_")


def titled(name: str) -> str:
    return name.title()


def first_upper(name: str) -> str:
    return name[:1].upper() + name[1:]


def camel(name: str) -> str:
    first, *others = name.split(" ")
    return first + "".join(each.title() for each in others)


def shouted(name: str) -> str:
    return name.upper().replace(" ", "_")


def dotted(name: str) -> str:
    return name.replace(" ", ".")


STYLES = (snake, snake, titled, first_upper, str, camel, shouted, dotted)
UNIT_STYLES = ("", "", "()", "()", "[]", "_", "row")
_PLAIN_UNITS = {
    "°C": "c",
    "µS/cm": "us_cm",
    "mg/L": "mg_l",
    "µg/L": "ug_l",
    "°": "deg",
    "%": "pct",
    "µg/m3": "ug_m3",
}


def with_unit(name: str, unit: str, how: str) -> str:
    if how == "_":
        plain = _PLAIN_UNITS.get(unit, unit.lower().replace("/", "_"))
        return f"{name}_{plain}"
    return f"{name} ({unit})" if how == "()" else f"{name} [{unit}]"


def shortened(name: str, chance: random.Random) -> str:
    """A name as somebody in a hurry writes it."""
    words = name.split(" ")
    how = chance.randrange(3)
    if how == 0:
        return " ".join(word[: chance.randint(3, 5)] for word in words)
    if how == 1:
        return " ".join(word[:1] + re.sub("[aeiou]", "", word[1:]) for word in words)
    at = chance.randrange(len(words))
    words[at] = words[at][: chance.randint(1, 4)]
    return " ".join(words)


def mistyped(name: str, chance: random.Random) -> str:
    """A name with two neighbouring letters swapped, or one left out."""
    if len(name) < 5:
        return name
    at = chance.randrange(1, len(name) - 2)
    return name[:at] + name[at + 1] + (name[at] if chance.random() < 0.5 else "") + name[at + 2 :]


def _core(name: str) -> str:
    return re.sub(r"[^a-z0-9]", "", name.lower()).rstrip("s")
