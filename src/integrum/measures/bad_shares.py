"""Sources of which more than the plan's share of values in a column are bad: told once, instead of their bad values."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from integrum.engine.job import Looked
from integrum.engine.state import State
from integrum.measures.measure import Context, Measure, Recalled
from integrum.measures.set_aside import AsideProblems
from integrum.measures.values import ValuesBySource
from integrum.problems import Problem

_CODE = "bad-share"
Told = Mapping[int, Sequence[Problem]]


class Shares(State[Told]):
    """What is said of such sources, before all else about their rows."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._told: dict[int, list[Problem]] = {}

    def add(self, seen: Told) -> None:
        """Take what was said of sources that are taken over."""
        for number, problems in seen.items():
            self._told[number] = list(problems)

    def check(self, aside: AsideProblems, values: ValuesBySource) -> None:
        """Compare the bad values of each source with the good ones."""
        matched = self._context.matched
        shares = {
            family: {one.column: one.bad_share for one in found.bound.bindings if one.bad_share < 1}
            for family, found in matched.families.items()
        }
        filled = {column: values.filled(column) for some in shares.values() for column in some}
        for number, column, count, raw in aside.bad_values() if filled else ():
            most = shares[matched.family_of[number]].get(column, 1.0)
            total = count + filled.get(column, {}).get(number, 0)
            if most < 1 and count > most * total:
                aside.forget(number, column)
                self._told.setdefault(number, []).append(
                    Problem.of(
                        _CODE,
                        self._context.summaries[number].source,
                        column=column,
                        raw=raw,
                        count=count,
                        message=f"{count / total:.0%} of its {total:,} values cannot be read",
                        hint="is it another column with the same name, or another notation? set-aside.csv "
                        "lists them all",
                    )
                )

    def problems(self, number: int) -> Sequence[Problem]:
        """What is said of a source."""
        return self._told.get(number, ())


class BadShares(Measure[Looked, Told, Shares]):
    """Sources with too many bad values in a column."""

    begin = Shares

    def look(self, rows: Looked) -> Told:  # noqa: ARG002
        """Only the whole source shows it."""
        return {}

    def recall(self, earlier: Recalled) -> Told:
        """What was said then."""
        return {
            number: [one for one in earlier.problems(number) if one.code == _CODE] for number in earlier.was
        }


BAD_SHARES = BadShares()
