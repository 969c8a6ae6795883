"""The sources of a run with their headers matched to the columns of the table, before their rows are read."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from integrum.columns.binding import Binding, Bound
from integrum.columns.header import Header
from integrum.engine.intake import Intake, Learned
from integrum.engine.ledger import SourceSummary
from integrum.engine.trust import with_seen
from integrum.engine.variants import Family, Variants, families_of, variants_of
from integrum.naming.identifiers import Identified
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.reading.head import Head


@dataclass(frozen=True)
class Matched:
    """Sources and columns."""

    intake: Intake
    # the columns of the table but those of provenance: those of the plan, then kept ones
    columns: tuple[Column, ...]
    # the families of sources by number, and the number of each source's; 0 where it has no head
    families: Mapping[int, Family]
    family_of: Sequence[int]
    # the distinct headers, as they are written, and the number of each source's, from 1; 0 where it has
    # none
    headers: Sequence[Header]
    header_of: Sequence[int]
    variants: Variants
    # columns that are not in the table because only common ones are wanted, with the sources that lack them
    not_common: Mapping[str, list[int]] = field(default_factory=dict)
    # what a survey has learned of sources that are still what they were
    learned: Mapping[int, Learned] = field(default_factory=dict)

    def family(self, number: int) -> Family | None:
        """The family of a source; None when it has none."""
        return self.families.get(self.family_of[number])

    def by_family(self, summaries: Sequence[SourceSummary]) -> dict[int, list[int]]:
        """The sources that come in and have a head, by the number of their family."""
        found: dict[int, list[int]] = {}
        for number, summary in enumerate(summaries):
            if summary.is_assembled and self.family_of[number]:
                found.setdefault(self.family_of[number], []).append(number)
        return found


def match(intake: Intake, keeps: bool = True) -> Matched:
    """Match the headers of sources to the columns of the table.

    `keeps`: whether headers that are in no column become columns where the plan's rules keep them.
    """
    plan = intake.plan
    families, family_of = families_of(plan, intake.sources, intake.heads)
    headers = list(dict.fromkeys(head.header for head in intake.heads if isinstance(head, Head)))
    numbers = {header: number for number, header in enumerate(headers, 1)}
    kept = _kept(families.values(), plan) if keeps and plan.rules.unlisted == "keep" else []
    columns: tuple[Column, ...] = (*plan.table_columns, *(column for _, column in kept))
    if kept:
        families = _rebound(families, lambda bound: bound.with_unlisted(kept))
    for number, orders in intake.contrary.items():
        if family_of[number]:
            families = {**families, len(families) + 1: _contrary(families[family_of[number]], orders)}
            family_of[number] = len(families)
    lacking: dict[str, list[int]] = {}
    if keeps and plan.rules.only_common:
        lacking = _not_common(columns, families, family_of, intake.identified)
        columns = tuple(column for column in columns if column.name not in lacking)
        families = _rebound(families, lambda bound: bound.without(lacking))
    still = {number: one for number, one in intake.learned.items() if _is_still(intake, number, one)}
    if still:
        families = with_seen(families, family_of, {number: one.canonical for number, one in still.items()})
    return Matched(
        intake,
        columns,
        families,
        family_of,
        headers,
        [numbers[head.header] if isinstance(head, Head) else 0 for head in intake.heads],
        variants_of(intake.heads),
        lacking,
        still,
    )


def _contrary(family: Family, orders: Mapping[str, str]) -> Family:
    """The family of a source whose dates have another order than the plan says: they are not read."""

    def changed(one: Binding) -> Binding:
        if one.column not in orders:
            return one
        how = one.conversion
        manner = replace(how.manner, date_order="")
        return replace(one, conversion=replace(how, manner=manner, contrary=orders[one.column]))

    return replace(family, bound=replace(family.bound, bindings=tuple(map(changed, family.bound.bindings))))


def _rebound(families: Mapping[int, Family], change: Callable[[Bound], Bound]) -> dict[int, Family]:
    return {number: replace(family, bound=change(family.bound)) for number, family in families.items()}


def _is_still(intake: Intake, number: int, learned: Learned) -> bool:
    """Whether what a survey has learned of a source still holds."""
    head = intake.heads[number]
    same = learned.layout == intake.layouts[number] and (learned.head is head or learned.head == head)
    return same and not intake.sources[number].has_changed()


def _kept(families: Iterable[Family], plan: Plan) -> list[tuple[str, Column]]:
    """Columns for headers that no column of the plan claims, by the names of the headers."""
    unlisted = dict.fromkeys(name for family in families for name, _ in family.bound.unlisted)
    taken = set(plan.table_names)
    return [(name, Column(_free_name(name, taken))) for name in unlisted]


def _free_name(name: str, taken: set[str]) -> str:
    free, number = name, 2
    while free in taken:
        free, number = f"{name} ({number})", number + 1
    taken.add(free)
    return free


def _not_common(
    columns: Sequence[Column],
    families: Mapping[int, Family],
    family_of: Sequence[int],
    identified: Sequence[Identified],
) -> dict[str, list[int]]:
    """Columns that some source lacks, with the numbers of the sources that lack each.

    Sources that are set aside for their header do not count.
    """
    lacking: dict[str, list[int]] = {}
    for number, family in enumerate(family_of):
        if not family or families[family].bound.refused:
            continue
        there = columns_in(families[family].bound)
        for column in columns:
            if column.name not in there and column.name not in identified[number].values:
                lacking.setdefault(column.name, []).append(number)
    return lacking


def columns_in(bound: Bound) -> set[str]:
    """The columns of the table that some header fills."""
    return {one.column for one in bound.bindings if one.positions}
