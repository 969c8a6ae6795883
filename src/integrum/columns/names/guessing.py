"""Guesses which columns are the same under other names, from all evidence together."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from integrum.columns.names import weights
from integrum.columns.names.evidence_of_places import COMPANY
from integrum.columns.names.evidence_of_words import SHORT, SYNONYMS, WORDS, contradicts
from integrum.columns.names.known import EvidenceContext, Finding, NameProfile
from integrum.columns.names.weights import EVIDENCE, FIGURES
from integrum.values.arrays import Floats

# guesses less likely than this are not made
LEAST = 0.5
# one about a column without a name gets the best of many partners, so it has to be surer
_LEAST_MUTE = 0.7
# of more pairs only those of the columns that most sources have are weighed
_MOST_PAIRS = 20_000
# names without a common word need this share of the same columns beside theirs
_LEAST_COMPANY = 0.1
_FAR_AHEAD, _FAR_BEHIND = 2.0, 6.0
# columns are not put together by way of a third one when they are less likely the same than this
_UNLIKE = 0.02
# this many names of one pattern have to be there before they say nothing
_CODED = 4
_CODE = re.compile(r"(v|var|q|c|col|f|field|x|p|par|param|item|feld|spalte|s)[ _.-]?\d{1,3}", re.IGNORECASE)
# nothing that is guessed is certain
_MOST_SURE = 0.99
_REASONS = 6
# without a word for it in the names nothing is surer than that
_UNNAMED = 0.89
# this share of two names has to be the same, and so small a one may be different words in each
_NAMED, _HARDLY = 0.5, 0.15
# among more columns than that nothing is guessed
_MOST_COLUMNS = 2_000
_UNITS_DIFFER = FIGURES.index("units differ")
# names have something in common when one of these is not zero
_IN_COMMON = ("words shared", "short for it", "initials of it", "synonyms")
_RELATED = [FIGURES.index(name) for name in _IN_COMMON]


@dataclass(frozen=True)
class Guess:
    """A guess that a column is the same as another one."""

    column: int
    other: int  # the number of the column that may be the same; it has fewer sources
    score: float  # how likely that is: the share of right guesses among those like it
    because: str


@dataclass(frozen=True)
class Weighed:
    """Two columns with the evidence that they are the same: their numbers, the findings, the case, and the log odds."""

    one: int
    other: int
    findings: tuple[Finding, ...]
    case: str = ""
    odds: float = 0.0

    @property
    def figures(self) -> Floats:
        """All figures, in the order of `FIGURES`."""
        return np.array([figure for finding in self.findings for figure in finding.figures])


def guess_same(
    columns: Sequence[NameProfile],
    setting: EvidenceContext,
    fixed: frozenset[int] = frozenset(),
    refused: frozenset[tuple[int, int]] = frozenset(),
) -> list[Guess]:
    """Guess which columns are the same.

    Two columns that stand in one source are never the same. The score of a pair comes from a logistic regression over
    `FIGURES`, and then from how far the best rivals of the two lie behind it. Columns are put together by their surest
    pairs first.

    Returns the surest first; none below `LEAST`.

    `fixed`: the numbers of columns that are never the other name of another one, such as those of a plan.
    """
    if len({one.sources for one in columns}) < 2 or len(columns) > _MOST_COLUMNS:
        return []  # all of them stand together; or they are so many that nobody goes through pairs of them
    columns = with_coded(columns)
    weighed = weigh_all(columns, setting)
    scores = scored(columns, weighed)
    unlike = {(min(pair), max(pair)) for pair in refused}
    unlike |= {
        (pair.one, pair.other)
        for pair, score in zip(weighed, scores, strict=True)
        if score < (LEAST if pair.figures[_UNITS_DIFFER] else _UNLIKE)
    }
    groups = {number: {number} for number in range(len(columns))}
    sources = {number: one.sources for number, one in enumerate(columns)}
    links: dict[int, dict[int, tuple[float, Weighed]]] = {}
    for pair, score in sorted(
        zip(weighed, scores, strict=True), key=lambda each: (-each[1], each[0].one, each[0].other)
    ):
        if score < LEAST:
            break
        if (pair.one, pair.other) in refused or (pair.other, pair.one) in refused:
            continue
        one, other = groups[pair.one], groups[pair.other]
        links.setdefault(pair.one, {})[pair.other] = links.setdefault(pair.other, {})[pair.one] = (
            score,
            pair,
        )
        if one is other:
            continue
        first, second = min(one), min(other)
        if sources[first] & sources[second] or (one & fixed and other & fixed):
            continue
        if any((min(a, b), max(a, b)) in unlike for a in one for b in other):
            continue
        both = one | other
        sources[min(both)] = sources[first] | sources[second]
        for number in both:
            groups[number] = both
    found = [
        guess
        for group in {id(each): each for each in groups.values()}.values()
        for guess in _in_group(columns, group, links, fixed)
    ]
    return sorted(found, key=lambda guess: (-guess.score, guess.column, guess.other))


def with_coded(columns: Sequence[NameProfile]) -> list[NameProfile]:
    """Mark names such as `v1`, `v2`, `v3`, which say nothing."""
    prefixes = Counter(found[1].casefold() for one in columns if (found := _CODE.fullmatch(one.name)))
    return [
        replace(one, coded=True)
        if (found := _CODE.fullmatch(one.name)) and prefixes[found[1].casefold()] >= _CODED
        else one
        for one in columns
    ]


def setting_of(columns: Sequence[NameProfile], setting: EvidenceContext) -> EvidenceContext:
    """The context of the evidence: how frequent each meaning is, and which name belongs to which column."""
    counts: Counter[frozenset[str]] = Counter()
    for one in columns:
        counts.update(set(setting.glossary.meanings(one.words)))
    same = {name: number for number, one in enumerate(columns) for name in one.names}
    sources = [one.sources for one in columns]
    company = {
        one.name: frozenset([number for number, some in enumerate(sources) if some & one.sources]) - {at}
        for at, one in enumerate(columns)
    }
    columns_there = max(len(columns), 1)
    return replace(setting, frequent=counts, columns=columns_there, same=same, company=company, weights={})


def weigh_all(columns: Sequence[NameProfile], setting: EvidenceContext) -> list[Weighed]:
    """Weigh all pairs that are never in one source and whose names do not contradict each other."""
    setting = setting_of(columns, setting)
    result = []
    for one, other in _pairs(columns):
        said = WORDS.weigh(columns[one], columns[other], setting)
        if contradicts(columns[one], columns[other], setting, said):
            continue
        if _are_strangers(columns[one], columns[other], setting, said):
            continue
        findings = tuple(
            said if each is WORDS else each.weigh(columns[one], columns[other], setting) for each in EVIDENCE
        )
        pair = Weighed(one, other, findings)
        result.append(replace(pair, case=case_of(columns[one], columns[other], pair.figures)))
    if not result:
        return []
    figures = np.stack([pair.figures for pair in result])
    odds = np.zeros(len(result))
    cases = np.array([pair.case for pair in result])
    for case, (weighing, _) in _weights().items():
        some = cases == case
        odds[some] = _odds(figures[some], weighing)
    return [replace(pair, odds=float(each)) for pair, each in zip(result, odds, strict=True)]


def _are_strangers(one: NameProfile, other: NameProfile, setting: EvidenceContext, said: Finding) -> bool:
    """Whether two columns share neither neighbours nor words."""
    if one.is_wanted or other.is_wanted or one.is_mute or other.is_mute:
        return False
    if COMPANY.weigh(one, other, setting).figures[0] >= _LEAST_COMPANY:
        return False
    findings = ((WORDS, said), *((each, each.weigh(one, other, setting)) for each in (SHORT, SYNONYMS)))
    return not any(
        figure
        for each, finding in findings
        for name, figure in zip(each.figures, finding.figures, strict=True)
        if name in _IN_COMMON
    )


def scored(columns: Sequence[NameProfile], weighed: Sequence[Weighed]) -> list[float]:
    """The score of each pair: the chance that it is the same column."""
    result = []
    for pair, behind in zip(weighed, ahead_of_rivals(columns, weighed), strict=True):
        constant, *slopes = _weights()[pair.case][1]
        odds = constant + float(np.dot(slopes, (pair.odds, *behind)))
        score = float(1 / (1 + np.exp(-odds)))
        result.append(score if speaks_for(pair.figures) else min(score, _UNNAMED))
    return result


def speaks_for(figures: Floats) -> bool:
    """Whether the names themselves say that two columns are the same; values that are alike are not enough to be sure.

    `figures`: in the order of `FIGURES`.
    """
    at: dict[str, float] = dict(zip(FIGURES, figures.tolist(), strict=True))
    if at["synonyms"] or max(at["short for it"], at["initials of it"]) >= _NAMED:
        return True
    return at["words shared"] >= _NAMED and at["words in each only"] <= _HARDLY


def ahead_of_rivals(columns: Sequence[NameProfile], weighed: Sequence[Weighed]) -> list[tuple[float, float]]:
    """How far each pair is ahead of its best rival."""
    partners: dict[int, list[tuple[float, int]]] = {}
    for pair in weighed:
        partners.setdefault(pair.one, []).append((pair.odds, pair.other))
        partners.setdefault(pair.other, []).append((pair.odds, pair.one))
    for found in partners.values():
        found.sort(reverse=True)
    return [
        (
            _ahead(columns, partners[pair.one], pair.other, pair.odds),
            _ahead(columns, partners[pair.other], pair.one, pair.odds),
        )
        if columns[pair.one].count >= columns[pair.other].count
        else (
            _ahead(columns, partners[pair.other], pair.one, pair.odds),
            _ahead(columns, partners[pair.one], pair.other, pair.odds),
        )
        for pair in weighed
    ]


def _ahead(
    columns: Sequence[NameProfile], partners: Sequence[tuple[float, int]], own: int, odds: float
) -> float:
    for other_odds, other in partners:
        if other != own and columns[other].sources & columns[own].sources:
            return float(np.clip(odds - other_odds, -_FAR_BEHIND, _FAR_AHEAD))
    return _FAR_AHEAD


def _pairs(columns: Sequence[NameProfile]) -> list[tuple[int, int]]:
    pairs = [
        (at, to)
        for (at, one), (to, other) in combinations(enumerate(columns), 2)
        if not one.sources & other.sources and (one.sources or other.sources) and one.may_be_of_kind(other)
    ]
    if len(pairs) > _MOST_PAIRS:  # the columns that most sources have matter most
        pairs.sort(key=lambda pair: -min(columns[pair[0]].count, columns[pair[1]].count))
        pairs = sorted(pairs[:_MOST_PAIRS])
    return pairs


def case_of(one: NameProfile, other: NameProfile, figures: Floats) -> str:
    """Which evidence a pair has; each case has its own weights.

    Returns ``"wanted"``: of one of the columns only what a plan says; ``"mute"``: one of the names says nothing;
    ``"unrelated"``: the names have nothing in common; ``"named"``: they have.
    """
    if one.is_wanted or other.is_wanted:
        return "wanted"
    if one.is_mute or other.is_mute:
        return "mute"
    return "named" if figures[_RELATED].any() else "unrelated"


def _weights() -> dict[str, tuple[Mapping[str, float], tuple[float, ...]]]:
    return {
        "named": (weights.NAMED, weights.RIVALS),
        "unrelated": (weights.UNRELATED, weights.RIVALS_UNRELATED),
        "mute": (weights.BY_POSITION, weights.RIVALS_BY_POSITION),
        "wanted": (weights.WANTED, weights.RIVALS_WANTED),
    }


def _odds(figures: Floats, weighing: Mapping[str, float]) -> Floats:
    slopes = np.array([weighing.get(name, 0.0) for name in FIGURES])
    odds: Floats = weighing.get("constant", 0.0) + figures @ slopes
    return odds


def _in_group(
    columns: Sequence[NameProfile],
    group: set[int],
    links: Mapping[int, Mapping[int, tuple[float, Weighed]]],
    fixed: frozenset[int],
) -> Iterator[Guess]:
    """Compare the members of a group with its main column."""
    if len(group) == 1:
        return
    main = min(
        group,
        key=lambda number: (number not in fixed, columns[number].by_position, -columns[number].count, number),
    )
    best: dict[int, tuple[float, str]] = {main: (1.0, "")}
    open_ones = {main}
    while open_ones:
        at = max(open_ones, key=lambda number: best[number][0])
        open_ones.remove(at)
        for to, (score, pair) in links.get(at, {}).items():
            if to not in group or best[at][0] * score <= best.get(to, (0.0, ""))[0]:
                continue
            said = _because(pair)
            if at != main:
                said = f'it may be "{columns[at].name}", which may be this column: {said}'
            best[to] = (best[at][0] * score, said)
            open_ones.add(to)
    for number, (score, said) in best.items():
        least = _LEAST_MUTE if columns[number].is_mute or columns[main].is_mute else LEAST
        if number != main and score >= least:
            yield Guess(main, number, min(round(score, 2), _MOST_SURE), said)


def _because(pair: Weighed) -> str:
    said = [finding.said for finding in pair.findings if finding.said]
    return "; ".join(said[:_REASONS])
