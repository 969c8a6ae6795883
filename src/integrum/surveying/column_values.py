"""What the values of all names are, so that a column can be decided about by whatever names belong to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from integrum.columns.header import Header
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.plan.layout import Layout
from integrum.reading.head import Format
from integrum.surveying.decide import decide
from integrum.surveying.decision import Decision, Place
from integrum.surveying.missing import said_by
from integrum.surveying.profile import Open, Profiles
from integrum.surveying.seen import Evidence, Range, Seen
from integrum.values.units import same_unit


class MarksShown:
    """What the numbers of all sources show of their decimal and thousands marks.

    A source shows it in any of its columns, and for all sources with its layout. Where commas stand between cells, a point
    can only be a decimal mark; and cells of sheets are numbers before they are texts.
    """

    def __init__(self, matched: Matched, profiles: Profiles) -> None:
        self._places = profiles.marks
        self._matched = matched
        plan, sources = matched.intake.plan, matched.intake.sources
        # what a plan says is decided
        groups = {source.group: plan.group(source.group) for source in sources}
        says = {at for at, one in groups.items() if plan.columns or one.layouts or one.layout != Layout()}
        self._given = {at for at, source in enumerate(sources) if source.group in says}
        self._shown = {self._format(source) for (source, _), first in self._places.items() if first is None}

    def of(self, found: Sequence[Seen]) -> tuple[tuple[Place, ...], Place | None]:
        """What nothing shows in a column, the first of each source; and the first that could be but is shown elsewhere."""
        places = {(one.source, one.position) for one in found}
        here = {place: self._places[place] for place in places if place in self._places}
        marks = {self._marks(source) for (source, _), first in here.items() if first is None}
        left = [(source, first) for (source, _), first in sorted(here.items()) if first is not None]
        if not left:
            return (), None
        is_open = [one for one in left if not self._is_shown(one[0]) and self._marks(one[0]) not in marks]
        if is_open:
            return tuple(map(_place, is_open)), None
        by_others = [one for one in left if not self._is_clear(one[0])]
        return (), _place(by_others[0]) if by_others else None

    def _format(self, source: int) -> Format:
        return self._matched.families[self._matched.family_of[source]].format

    def _marks(self, source: int) -> tuple[str, str]:
        form = self._format(source)
        return form.decimal_mark, form.thousands_mark

    def _is_clear(self, source: int) -> bool:
        """Whether there is only one way to read any number of a source."""
        form = self._format(source)
        by_delimiter = (form.dialect.delimiter, form.decimal_mark) == (",", ".")
        return form.is_sheet or by_delimiter or source in self._given

    def _is_shown(self, source: int) -> bool:
        return self._is_clear(source) or self._format(source) in self._shown


def _place(one: tuple[int, Open]) -> Place:
    return Place(one[1].raw, 1, one[0], one[1].row)


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
        """Sources with the same name for a column and the same notation come from the same hands."""
        form = self._matched.families[self._matched.family_of[one.source]].format
        return self.name_of(one), form.dialect.delimiter, form.decimal_mark, form.is_sheet


def count_unit(given: dict[str, int], unit: str, count: int) -> None:
    """Count a unit among those that mean the same."""
    if unit.strip(" -–"):
        same = next((each for each in given if same_unit(each, unit)), unit)
        given[same] = given.get(same, 0) + count
