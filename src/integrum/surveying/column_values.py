"""What the values of all names are, so that a column can be decided about by whatever names belong to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from integrum.columns.header import Header
from integrum.deciding.column import decide
from integrum.deciding.decision import Decision
from integrum.deciding.places import said_by
from integrum.deciding.seen import Evidence, Range, Seen
from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched
from integrum.surveying.marks_shown import MarksShown
from integrum.surveying.profile import Profiles
from integrum.values.units import same_unit


@dataclass(frozen=True)
class NameValues:
    """The values below one name, in all sources."""

    seen: Sequence[Seen]
    ranges: Sequence[Range]
    units: Mapping[str, int]  # the units that headers give, with the number of sources that have each


class ColumnValues:
    """The values below each name of the sources that come in.

    Parameters
    ----------
    matched, summaries, profiles
        The sources, and what was seen of their values.
    """

    def __init__(self, matched: Matched, summaries: Sequence[SourceSummary], profiles: Profiles) -> None:
        self._matched = matched
        present = [number for number, one in enumerate(summaries) if one.is_assembled]
        counts = Counter(matched.family_of[number] for number in present)
        self._headers: dict[int, Header] = {number: matched.families[number].header for number in counts}
        units: dict[str, dict[str, int]] = {}
        for family, header in self._headers.items():
            for position, name in header.named.items():
                count_unit(units.setdefault(name, {}), header.unit_at(position), counts[family])
        seen: dict[str, list[Seen]] = {}
        names_of = [header.names if header else () for header in map(self._headers.get, matched.family_of)]
        for one in profiles.seen:
            name = names_of[one.source][one.position]
            if name in seen:
                seen[name].append(one)
            else:
                seen[name] = [one]
        ranges: dict[str, list[Range]] = {}
        for reach in profiles.ranges:
            ranges.setdefault(self.name_of(reach), []).append(reach)
        self._of = {
            name: NameValues(seen.get(name, ()), ranges.get(name, ()), given) for name, given in units.items()
        }
        self._marks = {
            number: (form.decimal_mark, form.thousands_mark)
            for number in present
            if (form := matched.families[matched.family_of[number]].format)
        }
        self._shown = MarksShown(matched, profiles)
        self._orders = {place: order for place, order in profiles.orders.items() if order}

    def name_of(self, one: Seen | Range) -> str:
        """The header cell above some values."""
        return self._headers[self._matched.family_of[one.source]].names[one.position]

    def has(self, name: str) -> bool:
        """Whether some source has this header cell."""
        return name in self._of

    def of(self, names: Iterable[str]) -> NameValues:
        """Those of some names together."""
        some = [self._of[name] for name in names if name in self._of]
        units: dict[str, int] = {}
        for one in some:
            for unit, count in one.units.items():
                count_unit(units, unit, count)
        return NameValues(
            [each for one in some for each in one.seen], [each for one in some for each in one.ranges], units
        )

    def decide(
        self, names: Iterable[str], unit: str = "", wanted: str = "", missing: Collection[str] = ()
    ) -> Decision:
        """Decide about a column that has some names.

        `unit`, `wanted`, `missing`: the unit, the type and missing codes that are given for it, if they are.
        """
        some = self.of(names)
        if missing:
            some = replace(some, seen=[one for one in some.seen if said_by(one) not in missing])
        given = unit or max(some.units, key=lambda one: some.units[one], default="")
        shown = self._shown.of(some.seen)
        return decide(
            Evidence(some.seen, some.ranges, self._marks, given, *shown, wanted, self._office, self._orders)
        )

    def in_unit(self, ranges: Sequence[Range], unit: str) -> list[Range]:
        """Those of sources that give no other unit."""
        found = []
        for one in ranges:
            said = self._headers[self._matched.family_of[one.source]].unit_at(one.position)
            if not said.strip(" -–") or same_unit(said, unit):
                found.append(one)
        return found

    def _office(self, one: Seen) -> Hashable:
        """Sources that name a column alike and are written alike come from the same hands."""
        form = self._matched.families[self._matched.family_of[one.source]].format
        return self.name_of(one), form.dialect.delimiter, form.decimal_mark, form.is_sheet


def count_unit(given: dict[str, int], unit: str, count: int) -> None:
    """Count a unit among those that mean the same."""
    if unit.strip(" -–"):
        same = next((each for each in given if same_unit(each, unit)), unit)
        given[same] = given.get(same, 0) + count
