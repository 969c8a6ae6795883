"""Notice header cells that are values of one thing, such as months or depths; they may become rows."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from integrum.plan.column import Column
from integrum.plan.fields import key_of_field
from integrum.surveying.findings import Survey

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
    """Header cells that are values of one thing.

    Attributes
    ----------
    headers
        The cells, in their order.
    wide
        What `wide` of their group would say, by its keys.
    what
        What they are, in words.
    """

    headers: tuple[str, ...]
    wide: Mapping[str, object]
    what: str

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

    Parameters
    ----------
    names
        The header cells.
    texts
        Values that stand in text columns of other sources; header cells that are among them are names of one thing.

    Returns
    -------
    list of Run

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
    others = tuple(name for name in names if name.casefold() in values)
    if len(others) >= _RUN_OF_NAMES and not found:
        found.append(Run(others, {"headers": list(others), "name": "name", "value": "value"}, "names"))
    return found


def wide_remarks(survey: Survey, columns: Sequence[Column]) -> list[tuple[int, str, list[str]]]:
    """What to say about wide sources: the number of their group, the first of their columns, and the lines."""
    texts = {value for one in survey.known if one.family == "text" for value in one.sample}
    said: dict[int, tuple[int, str, list[str]]] = {}
    own = {name: column.name for column in columns for name in column.headers}
    for variant in survey.variants:
        numbers = [at for at, one in enumerate(survey.sources) if one.variant == variant.number]
        for number in dict.fromkeys(survey.sources[at].group for at in numbers):
            runs = runs_in(variant.names, texts - set(variant.names))
            if number in said or not runs or survey.groups[number - 1].wide is not None:
                continue
            run = runs[0]
            first, last, count = run.headers[0], run.headers[-1], len(run.headers)
            lines = [
                f'{count:,} header cells look like {run.what}, "{first}" to "{last}" ({variant.sources[0]}); as rows:',
                run.setting,
                f"then the columns {', '.join(run.columns) or 'of its parts'} take the place of these {count:,} columns",
            ]
            said[number] = (number, own.get(first, ""), lines)
    return list(said.values())


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
        if isinstance(value, list):
            return "[" + ", ".join(f'"{each}"' for each in value) + "]"
        return f'"{value}"'

    return "{ " + ", ".join(f"{key_of_field(key)} = {said(value)}" for key, value in keys.items()) + " }"
