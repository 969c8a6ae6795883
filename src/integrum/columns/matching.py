"""Which cell of a header belongs to which column of the plan."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from integrum.columns.names import loosened
from integrum.plan.checks import nearest
from integrum.plan.column import Column
from integrum.plan.model import Plan
from integrum.problems import Problem

# of more headers that nobody claims the nearest one is not sought, as that takes long
_MOST_NEAREST = 20


@dataclass(frozen=True)
class Match:
    """A header held against the plan.

    Attributes
    ----------
    positions
        For each column of the plan the position of its cell in the header, from 0, or None.
    unlisted
        Names that no column claims, with their positions.
    problems
        What is to be said about this header; the source is left open.
    refused
        Whether a source with this header is set aside.
    """

    positions: tuple[int | None, ...]
    unlisted: tuple[tuple[str, int], ...]
    problems: tuple[Problem, ...]
    refused: bool


def match(names: Sequence[str], plan: Plan, filled: Sequence[str] = ()) -> Match:
    """Hold a header against the plan: by name, then without regard to case, spaces and punctuation.

    Parameters
    ----------
    names
        The tidied names of the header cells, no two the same.
    plan
        The plan.
    filled
        Columns that are identifiers of this source; no header cell belongs to them.

    Returns
    -------
    Match
    """
    columns = [column for column in plan.table_columns if column.name not in filled]
    positions: dict[str, int] = {}
    problems: list[Problem] = []
    free = dict.fromkeys(range(len(names)))
    refused = False
    exact = {header: column for column in columns for header in column.headers}
    exact |= {" ".join(header.split()): column for header, column in exact.items()}
    for position, name in enumerate(names):
        column = exact.get(name)
        if column is None:
            continue
        del free[position]
        if column.name in positions:
            first = names[positions[column.name]]
            problems.append(_claimed_twice(column, first, name))
            refused = True
        else:
            positions[column.name] = position
    for column_name, position in _loose(names, free, columns, set(positions)):
        positions[column_name] = position
        del free[position]
        problems.append(
            Problem(
                "note",
                "header-spelling",
                column=column_name,
                raw=names[position],
                message="its header differs in case, spaces or punctuation",
                hint=f'add "{names[position]}" to `also` of this column to settle it',
            )
        )
    unlisted = tuple((names[position], position) for position in free)
    if plan.rules.unlisted != "keep":
        known = [header for column in plan.columns for header in column.headers]
        problems += [
            _unlisted(name, plan, filled, known if number < _MOST_NEAREST else ())
            for number, (name, _) in enumerate(unlisted)
        ]
    absent = [column.name for column in columns if column.required and column.name not in positions]
    problems += [_absent(name, names) for name in absent]
    refused |= bool(absent) or bool(unlisted and plan.rules.unlisted == "refuse")
    return Match(
        tuple(positions.get(column.name) for column in plan.table_columns), unlisted, tuple(problems), refused
    )


def _loose(
    names: Sequence[str], free: dict[int, None], plan_columns: Sequence[Column], settled: set[str]
) -> list[tuple[str, int]]:
    """Pairs of column and position that agree loosely and that nothing else could be meant by."""
    columns: dict[str, set[str]] = {}
    for column in plan_columns:
        for header in column.headers:
            columns.setdefault(loosened(header), set()).add(column.name)
    cells: dict[str, list[int]] = {}
    wanted: Counter[int] = Counter()
    for position in free:
        for column_name in columns.get(loosened(names[position]) or "\0", ()):
            cells.setdefault(column_name, []).append(position)
            wanted[position] += 1
    return [
        (column_name, positions[0])
        for column_name, positions in cells.items()
        if column_name not in settled and len(positions) == 1 and wanted[positions[0]] == 1
    ]


def _claimed_twice(column: Column, first: str, second: str) -> Problem:
    return Problem(
        "error",
        "header-claimed-twice",
        column=column.name,
        raw=second,
        message=f'the headers "{first}" and "{second}" of this source both belong to it',
        hint="take one of them out of `also`, or give it a column of its own",
    )


def _unlisted(name: str, plan: Plan, filled: Sequence[str], known: Sequence[str]) -> Problem:
    if name in filled:
        return Problem(
            "warning",
            "unlisted-header",
            column=name,
            message="an identifier of this source has this name; the column is not in the table",
            hint="give the identifier or the column another name",
        )
    refuse = plan.rules.unlisted == "refuse"
    near = nearest(name, known)
    return Problem(
        "error" if refuse else "warning",
        "unlisted-header",
        column=name,
        message="no column of the plan claims this header" + ("" if refuse else "; it is not in the table"),
        hint=f"add it to a column's `also`, or as a column of its own{near}",
    )


def _absent(name: str, names: Sequence[str]) -> Problem:
    return Problem(
        "error",
        "required-absent",
        column=name,
        message="the plan requires this column and the source lacks it",
        hint=f"its headers are: {', '.join(names[:12])}{nearest(name, names)}",
    )
