"""Which sources show what the marks in their numbers are, for columns in which every number could be read in two ways."""

from __future__ import annotations

from collections.abc import Sequence

from integrum.deciding.decision import Place
from integrum.deciding.seen import Seen
from integrum.engine.matched import Matched
from integrum.plan.layout import Layout
from integrum.reading.head import Format
from integrum.surveying.profile import Open, Profiles


class MarksShown:
    """What the numbers of all sources show of their marks.

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
