"""The identifiers of each source: from its path, from its group, from elsewhere; tidied and checked."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from integrum.arrays import texts
from integrum.plan import Column, Plan, Sources
from integrum.problems import Problem
from integrum.scheme import Scheme
from integrum.sources.source import Source
from integrum.values.canonical import canonical
from integrum.values.check import check
from integrum.values.tidy import tidied


@dataclass(frozen=True)
class Identified:
    """The identifiers of one source.

    Attributes
    ----------
    values
        By column name; None where there is no value. A name that is absent is not filled for this source.
    problems
        What is to be said about them.
    refused
        Whether the source is set aside because of its path.
    """

    values: Mapping[str, str | None]
    problems: tuple[Problem, ...] = ()
    refused: bool = False


def identify(plan: Plan, sources: Sequence[Source]) -> list[Identified]:
    """Find the identifiers of every source.

    Parameters
    ----------
    plan
        The plan.
    sources
        The sources.

    Returns
    -------
    list of Identified
        One per source, in their order.
    """
    columns = {column.name: column for column in plan.table_columns}
    readers = [_Reader(group, columns, plan.rules.misnamed) for group in plan.sources]
    raw = [readers[source.group].read(source) for source in sources]
    problems: list[list[Problem]] = [list(found) for _, found, _ in raw]
    values: list[dict[str, str | None]] = [{} for _ in sources]
    for name in plan.identifiers:
        having = [at for at, (found, _, _) in enumerate(raw) if name in found]
        given = tidied(texts([raw[at][0][name] or None for at in having]), columns[name])
        checked = check(given, columns[name].type, tuple(columns[name].missing))
        bad = set(checked.bad.tolist())
        for order, (at, text) in enumerate(zip(having, checked.text.to_pylist(), strict=True)):
            values[at][name] = text
            if order in bad:
                problems[at].append(_not_of_type(sources[at], columns[name], raw[at][0][name]))
    return [
        Identified(found, tuple(said), refused)
        for found, said, (_, _, refused) in zip(values, problems, raw, strict=True)
    ]


class _Reader:
    """Reads the identifiers of one group."""

    def __init__(self, group: Sources, columns: Mapping[str, Column], misnamed: str) -> None:
        self._group, self._refuse = group, misnamed == "set-source-aside"
        self._scheme = Scheme(group.ids) if group.ids else None
        self._accepts: dict[str, Callable[[str], bool]] = {
            name: _test(columns[name])
            for name in (self._scheme.names if self._scheme else ())
            if columns[name].type != "text"
        }

    def read(self, source: Source) -> tuple[dict[str, str], list[Problem], bool]:
        values = dict(self._group.constants) | {
            name: _fact(source, fact) for name, fact in self._group.facts.items()
        }
        if self._scheme is None:
            return values, [], False
        path = source.name
        if source.packing and not self._scheme.text.lower().endswith(source.packing):
            path = path[: -len(source.packing)] if path.lower().endswith(source.packing) else path
        fit = self._scheme.fit(path, self._accepts)
        if fit.values is None:
            # the types of the identifiers may be what does not fit; then say so cell by cell
            plain = self._scheme.fit(path)
            if plain.values is not None:
                return plain.values | values, [], False
            problem = Problem(
                "error" if self._refuse else "warning",
                "path-does-not-fit",
                source.name,
                message=fit.reason
                + ("; it was set aside" if self._refuse else "; its identifiers are empty"),
                hint=f'rename the file, or change the scheme "{self._scheme.text}"',
            )
            return dict.fromkeys(self._scheme.names, "") | values, [problem], self._refuse
        return fit.values | values, [], False


def _test(column: Column) -> Callable[[str], bool]:
    def test(text: str) -> bool:
        tidy = tidied(texts([text]), column)[0].as_py()
        return tidy in column.missing or canonical(tidy, column.type) is not None

    return test


def _fact(source: Source, fact: str) -> str:
    if fact == "modified":
        moment = datetime.fromtimestamp(source.state[1] // 10**9, UTC)
        return moment.strftime("%Y-%m-%d %H:%M:%S")
    if fact == "folder":
        return os.path.basename(os.path.dirname(source.path))
    name = source.name.rsplit("/", 1)[-1]
    return name.split(".")[0] or name


def _not_of_type(source: Source, column: Column, raw: str) -> Problem:
    return Problem(
        "warning",
        "bad-value",
        source.name,
        column=column.name,
        raw=raw,
        message=f"the identifier is not of type {column.type}; it is empty in the table",
        hint="rename the file, or change the column's type",
    )
