"""Notice header cells that are values of one thing, such as months or depths; they may become rows."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from integrum.columns.names import loosened
from integrum.plan.column import Column
from integrum.plan.fields import key_of_field
from integrum.plan.wide import Wide
from integrum.surveying.findings import HeaderVariant, Survey

# so many make a run
_RUN, _RUN_OF_NAMES = 3, 4
_MONTHS = (
    "jan january januar janvier enero gennaio",
    "feb february februar fevrier fev febrero febbraio",
    "mar march maerz marz mars marzo mrz",
    "apr april avril avr abril aprile",
    "may mai mayo maggio",
    "jun june juni juin junio giugno",
    "jul july juli juillet julio luglio",
    "aug august aout agosto ago",
    "sep sept september septembre septiembre settembre",
    "oct okt october oktober octobre octubre ottobre",
    "nov november novembre noviembre",
    "dec dez december dezember decembre diciembre dicembre dic",
)
_MONTH_WORDS = frozenset(word for line in _MONTHS for word in line.split())
_KINDS = (
    ("month", re.compile(r"(?:19|20)\d\d[-/_. ]?(?:0[1-9]|1[0-2])"), "????-??"),
    ("quarter", re.compile(r"(?:(?:19|20)\d\d[-/_ ]?)?[Qq][1-4](?:[-/_ ]?(?:19|20)\d\d)?"), ""),
    ("year", re.compile(r"(?:19|20)\d\d"), "????"),
    ("date", re.compile(r"(?:19|20)\d\d-\d\d-\d\d"), "????-??-??"),
    ("depth", re.compile(r"\d+(?:[.,]\d+)? ?(?:m|cm)"), ""),
)
_WITH_DEPTH = re.compile(r"(.+?)([ _@-]+)\d+(?:[.,]\d+)?( ?_?)(m|cm)")
_WITH_YEAR = re.compile(r"(.*?[^\d\W])([ _-]*)(?:19|20)\d\d")


@dataclass(frozen=True)
class Run:
    """Header cells that are values of one thing."""

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
        return tuple(
            str(self.wide[key])
            for key in ("name", "value")
            if key in self.wide and "{" not in str(self.wide[key])
        )


def runs_in(names: Sequence[str], texts: Iterable[str] = ()) -> list[Run]:
    """Find the runs in a header.

    `texts`: values that stand in text columns of other sources; header cells that are among them are names of one
    thing.

    Examples
    --------
    >>> runs_in(["station", "2024-04", "2024-05", "2024-06"])[0].setting
    'wide = { headers = "20??-??", name = "month", value = "value" }'
    >>> runs_in(["day", "temp 1 m", "temp 5 m", "oxygen 1 m"])[0].setting
    'wide = { headers = "{measure} {depth} m", value = "{measure}" }'
    """
    found: list[Run] = []
    for what, pattern, shape in _KINDS:
        some = tuple(name for name in names if pattern.fullmatch(name.strip()))
        if len(some) >= _RUN and not any(set(some) & set(run.headers) for run in found):
            found.append(
                Run(some, {"headers": _pattern(some, shape), "name": what, "value": "value"}, f"{what}s")
            )
    months = tuple(name for name in names if name.strip().lower().rstrip(".") in _MONTH_WORDS)
    if len(months) >= _RUN:
        found.append(Run(months, {"headers": list(months), "name": "month", "value": "value"}, "months"))
    found += _with_depth(names) or _with_year(names)
    values = {text.casefold() for text in texts}
    others = tuple(name for name in names if name.casefold() in values and "{" not in name)
    if len(others) >= _RUN_OF_NAMES and not found:
        found.append(Run(others, {"headers": list(others), "name": "name", "value": "value"}, "names"))
    return found


def wide_remarks(survey: Survey, columns: Sequence[Column]) -> list[tuple[int, str, list[str]]]:
    """What to say about wide sources: the number of their group, the first of their columns, and the lines."""
    texts = {value for one in survey.known if one.family == "text" for value in one.sample}
    own = {name: column.name for column in columns for name in column.headers}
    said = []
    for number, group in enumerate(survey.groups, 1):
        there = {one.variant for one in survey.sources if one.group == number}
        variants = [variant for variant in survey.variants if variant.number in there]
        for variant in variants if group.wide is None else ():
            runs = runs_in(variant.names, texts - set(variant.names))
            if not runs:
                continue
            run = _named_as_in_others(survey, runs[0], variant, variants)
            wide = Wide(**run.wide)  # type: ignore[arg-type]
            names = dict.fromkeys(name for each in variants for name in each.names)
            count = len({own.get(name, name) for name in names if wide.read(name)})
            first, last = run.headers[0], run.headers[-1]
            where = f'"{first}" to "{last}" ({variant.sources[0]})'
            lines = [
                f"{len(run.headers):,} header cells look like {run.what}, {where}; as rows:",
                run.setting,
                f"then the columns {', '.join(run.columns) or 'of its parts'} take the place of {count:,} columns below",
            ]
            said.append((number, own.get(first, ""), lines))
            break
    return said


def _named_as_in_others(
    survey: Survey, run: Run, variant: HeaderVariant, variants: Sequence[HeaderVariant]
) -> Run:
    """The same with the names that long sources of the group have for what the run becomes, as far as they are plain."""
    if "name" not in run.wide:
        return run
    here = set(variant.names)
    others = {name for each in variants if not runs_in(each.names) for name in each.names} - here
    like = [name for name in others if loosened(name) == run.wide["name"]]
    numbers = [
        one.name
        for one in survey.known
        if one.name in others and one.family == "number" and one.name not in like
    ]
    wide = dict(run.wide)
    if like:
        wide["name"] = like[0]
    if len(numbers) == 1 and not any(map(str.isdigit, numbers[0])):
        wide["value"] = numbers[0]
    return replace(run, wide=wide)


def _with_depth(names: Sequence[str]) -> list[Run]:
    fits = {name: found for name in names if (found := _WITH_DEPTH.fullmatch(name))}
    ways = {(found[2], found[3], found[4]) for found in fits.values()}
    if len(fits) < _RUN or len(ways) != 1:
        return []
    before, behind, unit = next(iter(ways))
    scheme = f"{{measure}}{before}{{depth}}{behind}{unit}"
    return [Run(tuple(fits), {"headers": scheme, "value": "{measure}"}, "measures at several depths")]


def _with_year(names: Sequence[str]) -> list[Run]:
    fits = {name: found for name in names if (found := _WITH_YEAR.fullmatch(name))}
    ways = {found[2] for found in fits.values()}
    if len(fits) < _RUN or len(ways) != 1:
        return []
    scheme = f"{{measure}}{next(iter(ways))}{{year}}" if next(iter(ways)) else ""
    return (
        [Run(tuple(fits), {"headers": scheme, "value": "{measure}"}, "measures of several years")]
        if scheme
        else []
    )


def _pattern(names: Sequence[str], shape: str) -> object:
    """A pattern that fits these names, or the names."""
    if len({len(name) for name in names}) > 1 or not shape:
        return list(names)
    start = ""
    for letters in zip(*names, strict=True):
        if len(set(letters)) > 1:
            break
        start += letters[0]
    start = start[:2]
    return start + "".join("?" if letter.isdigit() else letter for letter in names[0][len(start) :])


def _inline(keys: Mapping[str, object]) -> str:
    def said(value: object) -> str:
        # texts of JSON are texts of TOML
        return json.dumps(value, ensure_ascii=False)

    return "{ " + ", ".join(f"{key_of_field(key)} = {said(value)}" for key, value in keys.items()) + " }"
