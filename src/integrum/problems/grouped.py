"""Like problems together, with a count and the first examples; those that cost data come first."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from integrum.problems import notebook
from integrum.problems.codes import COSTS, SEVERITIES
from integrum.problems.problem import Problem, clipped, counted, middle, near

# an error that cost nothing, such as a check that failed, stands behind what did
_ERROR = COSTS.index("") - 0.5
_NUMBERS = re.compile(r'"[^"]*"|[0-9][0-9.,:-]*')
_EXAMPLES = 3
_MORE = re.compile(r" more places?$", re.M)


@dataclass(frozen=True)
class Group:
    """Similar problems of one kind in one column."""

    problems: tuple[Problem, ...]  # they, in order; at least one. Of very many only the first.
    # how many are not among these, how often they were found, and in how many other sources
    rest: int = 0
    rest_count: int = 0
    rest_sources: int = 0

    @property
    def first(self) -> Problem:
        """The first of them."""
        return self.problems[0]

    @property
    def count(self) -> int:
        """How often it was found in all."""
        return sum(one.count for one in self.problems) + self.rest_count

    @property
    def sources(self) -> tuple[str, ...]:
        """The sources in which it was found."""
        return tuple(dict.fromkeys(one.source for one in self.problems if one.source))

    @property
    def where(self) -> str:
        """The first place, and how many other sources there are."""
        place = self.first.source + (f", row {self.first.row:,}" if self.first.row is not None else "")
        others = len(self.sources) + self.rest_sources - 1
        return place + (f"\nand {counted(others, 'more source')}" if others > 0 else "")

    @property
    def lines(self) -> list[str]:
        """The group in words: a line, and other places.

        Examples
        --------
        >>> some = [Problem("warning", "bad-value", name, 7, "depth", "n/a", 2, "not a number") for name in ("a", "b")]
        >>> for line in grouped(some)[0].lines:
        ...     print(line)
        warning: a, row 7, column "depth": not a number: "n/a" (and 1 more) [bad-value]
          also in b, row 7: "n/a" (and 1 more)
        """
        first = self.first
        said = first.kind.together
        if said:
            names = list(dict.fromkeys(f'"{clipped(one.raw or one.column)}"' for one in self.problems))
            shown, more = ", ".join(names[:_EXAMPLES]), len(names) + self.rest - _EXAMPLES
            shown += f" and {more:,} more" if more > 0 else ""
            number = len(self.sources) + self.rest_sources
            where = f" (in {number:,} sources)" if number > 1 else ""
            return [f"{first.severity}: {said}: {shown}{where} [{first.code}]"]
        return self._lines(_EXAMPLES)

    @property
    def all_lines(self) -> list[str]:
        """The group in words, with every place."""
        return self.lines if self.first.kind.together else self._lines(len(self.problems))

    def lines_with(self, place: str) -> list[str]:
        """The same as `lines`, with the name of the file that has all of them.

        Examples
        --------
        >>> some = [Problem("warning", "bad-value", f"{at}.csv", 7, "depth", "x", 1, "not a number") for at in range(9)]
        >>> grouped(some)[0].lines_with("lakes-record/problems.csv")[1]
        '  also in 1.csv, row 7: "x"; 2.csv, row 7: "x"; 6 more in lakes-record/problems.csv'
        """
        return [_MORE.sub(f" more in {place}", line) if at else line for at, line in enumerate(self.lines)]

    def _lines(self, most: int) -> list[str]:
        first, also = self.first, self.also(most)
        lines = [str(first), *([f"  {also}"] if also else [])]
        return [*lines, f"  hint: {clipped(first.hint, 300)}"] if first.hint else lines

    def also(self, most: int = _EXAMPLES) -> str:
        """Where else they were found; of so many places the first is left out, as its problem is shown."""
        some = [_place(one) for one in self.problems[1:most]]
        more = len(self.problems) + self.rest - 1 - len(some)
        return (
            f"also in {'; '.join(some)}" + (f"; {counted(more, 'more place')}" if more else "")
            if some
            else ""
        )


def problems_html(problems: Iterable[Problem], record: Path | None = None) -> str:
    """Like problems together as a table for a notebook, with what to do about each."""
    groups = grouped(problems)
    if not groups:
        return notebook.line("problems: none")
    rows = []
    for group in groups:
        first = group.first
        place = group.where + (f'\ncolumn "{first.column}"' if first.column else "")
        said = first.message + (f': "{clipped(first.raw)}"' if first.raw else "")
        rows.append((first.severity, group.count, place.lstrip("\n"), f"{said} [{first.code}]", first.hint))
    names = ["severity", "count", "where", "problem", "what to do"]
    place = f"{near(record)}/problems.csv" if record else "problems"
    return notebook.title("Problems") + notebook.table(names, rows, rest=place)


def grouped(problems: Iterable[Problem]) -> list[Group]:
    """Group similar problems.

    Returns those that cost sources first, then those that cost rows, cells, columns and identifiers, then the others; in
    each of these errors first. Notes come last.
    """
    found: dict[tuple[str, ...], _Some] = {}
    kept = 0
    for one in problems:
        column = "" if one.kind.together else one.column
        # what is about the run as a whole says something else each time
        message = one.message if not one.source else "" if one.kind.varies else _NUMBERS.sub("#", one.message)
        some = found.setdefault((one.severity, one.code, column, message), _Some([]))
        kept += some.add(one, kept < _MOST)
    groups = [some.group() for some in found.values()]
    return sorted(groups, key=lambda group: _order(group.first))


class _Some:
    """Collects similar problems."""

    def __init__(self, kept: list[Problem]) -> None:
        self._kept = kept
        self._rest = self._count = self._sources = 0
        self._last = ""

    def add(self, one: Problem, keep: bool) -> bool:
        """Add a problem. Returns whether it was kept; of many only a few are."""
        if keep or len(self._kept) < _EXAMPLES:
            self._kept.append(one)
            self._last = one.source
            return True
        self._rest += 1
        self._count += one.count
        if one.source and one.source != self._last:  # they come source by source
            self._sources += 1
            self._last = one.source
        return False

    def group(self) -> Group:
        """Make the group."""
        return Group(tuple(self._kept), self._rest, self._count, self._sources)


# this many problems are kept while they are put together
_MOST = 50_000


def _order(one: Problem) -> tuple[bool, float, bool, int]:
    """What costs more comes first; notes, which cost nothing, stand below all errors and warnings."""
    cost = COSTS.index(one.costs) if one.costs or one.severity != "error" else _ERROR
    return one.severity == "note", cost, one.kind.is_copy, SEVERITIES.index(one.severity)


def _place(one: Problem) -> str:
    said = middle(one.source) or "the whole run"
    if one.row is not None:
        said += f", row {one.row:,}"
    if one.raw:
        said += f': "{clipped(one.raw, 30)}"'
    return clipped(said, 110) + (
        f" (and {one.count - 1:,} more)" if one.count > 1 and not one.kind.says_count else ""
    )
