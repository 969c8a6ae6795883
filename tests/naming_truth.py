"""From generated tables to what the guesses get to see, and how many of the guesses are right."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, fields
from functools import reduce

from integrum.columns.names.certain import certain_columns
from integrum.columns.names.guessing import guess_same
from integrum.columns.names.known import EvidenceContext, NameProfile
from integrum.values.arrays import texts
from integrum.values.evidence import EMPTY, KINDS, kinds
from renamed_tables import Part, lines_of, make, snake, subjects
from subjects import COMMON

SAMPLE = 16


def known_names(parts: Sequence[Part]) -> list[NameProfile]:
    """What is known under each name."""
    order = list(dict.fromkeys((name, part.has_header) for part in parts for name in part.header))
    sources = dict.fromkeys(order, 0)
    samples: dict[tuple[str, bool], list[str]] = {key: [] for key in order}
    units: dict[tuple[str, bool], dict[str, None]] = {key: {} for key in order}
    places: dict[tuple[str, bool], list[float]] = {key: [] for key in order}
    before = {key: Counter[str]() for key in order}
    after = {key: Counter[str]() for key in order}
    for number, part in enumerate(parts):
        for at, name in enumerate(part.header):
            key = (name, part.has_header)
            sources[key] |= 1 << number
            filled = [row[at] for row in part.rows if row[at].strip()]
            step = max(1, len(filled) // SAMPLE)
            samples[key] += filled[::step][:SAMPLE]
            if part.units[at]:
                units[key][part.units[at]] = None
            places[key].append(at / max(len(part.header) - 1, 1))
            before[key][part.header[at - 1] if at else ""] += 1
            after[key][part.header[at + 1] if at + 1 < len(part.header) else ""] += 1
    return [
        NameProfile(
            (key[0],),
            sources[key],
            Counter(KINDS[kind] for kind in kinds(texts(samples[key])).tolist() if kind != EMPTY),
            tuple(units[key]),
            tuple(samples[key][:: max(1, len(samples[key]) // 300)]),
            sum(places[key]) / len(places[key]),
            before[key],
            after[key],
            not key[1],
        )
        for key in order
    ]


def truth_of(parts: Sequence[Part]) -> dict[tuple[str, bool], str]:
    """What each name truly is; by name, and whether it stands in a header."""
    return {
        (name, not part.has_header): true
        for part in parts
        for name, true in zip(part.header, part.truth, strict=True)
    }


def columns_of(parts: Sequence[Part]) -> tuple[list[NameProfile], list[list[NameProfile]]]:
    """What is known of each column, and of the names that are certainly it."""
    groups = certain_columns(known_names(parts))
    return [reduce(NameProfile.with_other, group) for group in groups], groups


def with_wanted(
    seed: int, columns: Sequence[NameProfile], true: Sequence[str]
) -> tuple[list[NameProfile], list[str]]:
    """The columns of a table and those of a plan that no source has, a third of which nothing belongs to."""
    chance = random.Random(-seed)
    lines = {line.names[0]: line for text in subjects(seed).values() for line in lines_of(text)}
    lines |= {line.names[0]: line for line in lines_of(COMMON)}
    there = [name for name in dict.fromkeys(true) if name in lines and chance.random() < 0.7]
    wanted = dict.fromkeys([*there, *chance.sample(sorted(lines), len(there) // 3)])
    made = [
        NameProfile(
            (snake(chance.choice(lines[name].names)),),
            0,
            {_kind(lines[name].kind): 1},
            (lines[name].unit,) if lines[name].unit and chance.random() < 0.5 else (),
        )
        for name in wanted
    ]
    return [*columns, *made], [*true, *wanted]


def _kind(said: str) -> str:
    if said[0] in "nl":
        return "number"
    return {"i": "integer", "day": "date", "moment": "datetime", "yes": "boolean"}.get(
        said.split(" ")[0], "text"
    )


@dataclass
class Tally:
    """How many of the certain names and of the guesses are right.

    Attributes
    ----------
    certain, certain_right
        Names that were put to a column for certain, and how many of them belong there.
    guesses
        The score of each guess, and whether it is right.
    due
        Other names that a guess could have found.
    """

    certain: int = 0
    certain_right: int = 0
    guesses: list[tuple[float, bool]] = field(default_factory=list)
    by_position: list[tuple[float, bool]] = field(default_factory=list)
    due: int = 0
    due_by_position: int = 0
    wrong: list[str] = field(default_factory=list)

    def add(self, other: Tally) -> None:
        """Add what was counted elsewhere."""
        for each in fields(self):
            setattr(self, each.name, getattr(self, each.name) + getattr(other, each.name))

    @property
    def precision(self) -> float:
        return sum(right for _, right in self.guesses) / max(len(self.guesses), 1)

    @property
    def recall(self) -> float:
        return sum(right for _, right in self.guesses) / max(self.due, 1)

    def deciles(self) -> dict[float, tuple[int, float, float]]:
        """For each tenth of the scores: guesses, their mean score, and the share that is right."""
        found: dict[float, list[tuple[float, bool]]] = {}
        for score, right in self.guesses:
            found.setdefault(min(int(score * 10), 9) / 10, []).append((score, right))
        return {
            low: (len(some), sum(s for s, _ in some) / len(some), sum(r for _, r in some) / len(some))
            for low, some in sorted(found.items())
        }


def tally(seeds: Iterable[int]) -> Tally:
    """Hold certain names and guesses against the truth."""
    made = Tally()
    for seed in seeds:
        parts = make(seed)
        truth = truth_of(parts)
        columns, groups = columns_of(parts)
        true = [[truth[one.name, one.by_position] for one in group] for group in groups]
        for names in true:
            main = Counter(names).most_common(1)[0][0]
            made.certain += len(names) - 1
            made.certain_right += sum(name == main for name in names) - 1
        main_of = [names[0] for names in true]
        named = Counter(main_of[at] for at, one in enumerate(columns) if not one.by_position)
        made.due += sum(count - 1 for count in named.values())
        made.due_by_position += sum(main_of[at] in named for at, one in enumerate(columns) if one.by_position)
        for guess in guess_same(columns, EvidenceContext(len(parts))):
            right = main_of[guess.column] == main_of[guess.other]
            where = made.by_position if columns[guess.other].by_position else made.guesses
            where.append((guess.score, right))
            if not right:
                made.wrong.append(
                    f"{seed}: {columns[guess.column].name} is not {columns[guess.other].name} "
                    f"({guess.score}: {guess.because})"
                )
    return made
