"""Notice header cells that are values of one thing, such as months or depths; they may become rows."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from integrum.columns.names.known import NameProfile
from integrum.intake.ledger import SourceSummary
from integrum.plan.column import Column
from integrum.plan.fields import key_of_field, loosened
from integrum.plan.scheme import looks_of
from integrum.plan.sources import Sources
from integrum.plan.wide import Wide
from integrum.problems.problem import Problem, counted
from integrum.surveying.findings import HeaderVariant, SurveyData

# this many make a run
_RUN, _RUN_OF_NAMES = 3, 4
# what header cells can be values of: the parts of a scheme that know what they look like, and what follows them
_PARTS = (
    ("date", "", "dates"),
    ("month", "", "months"),
    ("quarter", "", "quarters"),
    ("year", "", "years"),
    ("depth", " m", "depths"),
    ("depth", "m", "depths"),
    ("depth", " cm", "depths"),
    ("depth", "cm", "depths"),
)
# what may stand between the name of a measure and a part
_BETWEEN = (" ", "_", " - ", "-", " @ ", "_@_", ".", ", ", "/")


@dataclass(frozen=True)
class Run:
    """Header cells that are values of one thing, such as months."""

    headers: tuple[str, ...]  # the cells, in their order
    wide: Mapping[str, object]  # what `wide` of their group would say, by its keys
    what: str  # what they are, in words

    @property
    def setting(self) -> str:
        """The line of a plan that turns them into rows."""
        return f"wide = {_inline(self.wide)}"

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that they become, as far as their names are known."""
        wide = Wide(**self.wide)  # type: ignore[arg-type]
        return tuple(name for name in (*wide.names, wide.value_column) if name)


@dataclass(frozen=True)
class WideVariant:
    """A header variant of a group with header cells that are values of one thing."""

    group: int
    variant: HeaderVariant
    run: Run

    def problem(self) -> Problem:
        """What is to be said of it."""
        run = self.run
        return Problem.of(
            "headers-are-values",
            self.variant.sources[0],
            message=f'{counted(len(run.headers), "header cell")} look like {run.what}: "{run.headers[0]}" to '
            f'"{run.headers[-1]}"',
            hint=f"to have a row for each, set {run.setting} for the sources in a plan",
        )


def runs_in(names: Sequence[str], texts: Iterable[str] = ()) -> list[Run]:
    """Find the runs in a header.

    `texts`: values that stand in text columns of other sources; header cells that are among them are names of one
    thing.

    Examples
    --------
    >>> runs_in(["station", "2024-04", "2024-05", "2024-06"])[0].setting
    'wide = { headers = "{month}", value = "value" }'
    >>> runs_in(["day", "temp 1 m", "temp 5 m", "oxygen 1 m"])[0].setting
    'wide = { headers = "{measure} {depth} m", value = "{measure}" }'
    >>> runs_in(["site", "Jan 2024", "Feb 2024", "Mar 2024"])[0].what
    'months'
    """
    best: Run | None = None
    having = {
        (part, behind): [name for name in names if _has(name, part, behind)] for part, behind, _ in _PARTS
    }
    for part, behind, what in _PARTS:
        alone = _run(having[part, behind], f"{{{part}}}{behind}", "value", what)
        if alone is not None and (best is None or len(alone.headers) > len(best.headers)):
            best = alone
    for part, behind, what in _PARTS if best is None else ():
        some = having[part, behind]
        for between in _BETWEEN if len(some) >= _RUN else ():
            for scheme in (
                f"{{measure+}}{between}{{{part}}}{behind}",
                f"{{{part}}}{behind}{between}{{measure+}}",
            ):
                found = _run(some, scheme, "{measure}", f"measures of several {what}")
                if found is not None and (best is None or len(found.headers) > len(best.headers)):
                    best = found
    if best is not None:
        return [_plainly(best, names)]
    values = {text.casefold() for text in texts}
    others = tuple(name for name in names if name.casefold() in values and "{" not in name)
    if len(others) >= _RUN_OF_NAMES:
        return [Run(others, {"headers": list(others), "name": "name", "value": "value"}, "names")]
    return []


def wide_variants(
    groups: Sequence[Sources],
    sources: Sequence[SourceSummary],
    variants: Sequence[HeaderVariant],
    known: Sequence[NameProfile],
) -> list[WideVariant]:
    """The variants whose header cells are values: the most frequent of each group that says nothing of it."""
    texts = {value for one in known if one.family == "text" for value in one.sample}
    found = []
    for number, group in enumerate(groups, 1):
        there = {one.variant for one in sources if one.group == number}
        some = [variant for variant in variants if variant.number in there]
        for variant in some if group.wide is None else ():
            runs = runs_in(variant.names, texts - set(variant.names))
            if runs:
                found.append(WideVariant(number, variant, _named_as_in_others(known, runs[0], variant, some)))
                break
    return found


def wide_remarks(survey: SurveyData, columns: Sequence[Column]) -> list[tuple[int, str, list[str]]]:
    """What to say about wide sources: the number of their group, the first of their columns, and the lines."""
    own = {name: column.name for column in columns for name in column.headers}
    said = []
    for one in wide_variants(survey.groups, survey.sources, survey.variants, survey.known):
        run, wide = one.run, Wide(**one.run.wide)  # type: ignore[arg-type]
        count = len({column.name for column in columns if all(map(wide.read, column.headers))})
        first, last = run.headers[0], run.headers[-1]
        lines = [
            f'{len(run.headers):,} header cells look like {run.what}, "{first}" to "{last}" ({one.variant.sources[0]}); '
            "to have rows of them:",
            run.setting,
            f"then the columns {', '.join(run.columns) or 'of its parts'} take the place of {count:,} columns below",
        ]
        said.append((one.group, own.get(first, ""), lines))
    return said


@lru_cache(maxsize=65536)
def _has(name: str, part: str, behind: str) -> bool:
    """Whether a name begins or ends with what looks like a part; most do not, and need no closer look."""
    return _part(part, behind).search(name.strip()) is not None


@lru_cache(maxsize=16)
def _part(part: str, behind: str) -> re.Pattern[str]:
    looks = f"(?:{looks_of(part)}){re.escape(behind)}"
    return re.compile(rf"(?:^|[\W_]){looks}$|^{looks}(?:[\W_]|$)", re.IGNORECASE)


def _run(names: Sequence[str], headers: str, value: str, what: str) -> Run | None:
    """The names that a scheme reads, where they are enough; of a measure with several values each."""
    if len(names) < _RUN:
        return None
    some = tuple(name for name in names if (said := _read(headers, value, name)) and not _are_bare(said[0]))
    if len(some) < _RUN or (value == "{measure}" and not _are_measures(headers, value, some)):
        return None
    return Run(some, {"headers": headers, "value": value}, what)


@lru_cache(1 << 16)
def _read(headers: str, value: str, name: str) -> tuple[dict[str, str], str] | None:
    """What a scheme reads in a name; many sources have the same names."""
    return _wide(headers, value).read(name)


@lru_cache(64)
def _wide(headers: str, value: str) -> Wide:
    return Wide(headers, value=value)


def _are_bare(parts: Mapping[str, str]) -> bool:
    """Whether a month is nothing but two digits, which may be a number of anything."""
    return "month" in parts and len(parts["month"]) <= len("12")


def _are_measures(headers: str, value: str, names: Sequence[str]) -> bool:
    """Whether some measure has several values, as what is measured at several depths has."""
    measures = [said[1] for name in names if (said := _read(headers, value, name))]
    return max(measures.count(each) for each in set(measures)) > 1 and all(
        any(map(str.isalpha, each)) for each in measures
    )


def _plainly(run: Run, names: Sequence[str]) -> Run:
    """The scheme without the sign for separators in a measure, if no measure has one."""
    scheme = str(run.wide["headers"])
    if "+" in scheme:
        plain = _run(names, scheme.replace("+", ""), str(run.wide["value"]), run.what)
        if plain is not None and plain.headers == run.headers:
            return plain
    return run


def _named_as_in_others(
    known: Sequence[NameProfile], run: Run, variant: HeaderVariant, variants: Sequence[HeaderVariant]
) -> Run:
    """The same with the names that long sources of the group have for what the run becomes, as far as they are plain."""
    if run.wide["value"] == "{measure}":
        return run
    here = set(variant.names)
    others = {name for each in variants if not runs_in(each.names) for name in each.names} - here
    key = Wide(**run.wide).names[0]  # type: ignore[arg-type]
    like = [name for name in others if loosened(name) == loosened(key)]
    numbers = [
        one.name for one in known if one.name in others and one.family == "number" and one.name not in like
    ]
    wide = dict(run.wide)
    if like and "name" in wide:
        wide["name"] = like[0]
    if len(numbers) == 1 and not any(map(str.isdigit, numbers[0])):
        wide["value"] = numbers[0]
    return replace(run, wide=wide)


def _inline(keys: Mapping[str, object]) -> str:
    def said(value: object) -> str:
        # texts of JSON are texts of TOML
        return json.dumps(value, ensure_ascii=False)

    return "{ " + ", ".join(f"{key_of_field(key)} = {said(value)}" for key, value in keys.items()) + " }"
