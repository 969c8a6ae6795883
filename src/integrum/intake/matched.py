"""The sources of a run with their headers matched to the columns of the table, before their rows are read."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from integrum.columns.binding import Binding, Bound, bind
from integrum.columns.header import Header
from integrum.columns.identifiers import Identified
from integrum.columns.matching import MatchContext
from integrum.intake.intake import Intake, SurveyCache
from integrum.intake.ledger import SourceSummary
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.problems.problem import SourceFault
from integrum.reading.head import Format, Head
from integrum.sources.patterns import places_of
from integrum.sources.source import Source
from integrum.values.notation import PLAIN, Conversion


@dataclass(frozen=True)
class Family:
    """Sources with the same header, group and notation; their rows can be read together."""

    header: Header
    format: Format
    bound: Bound


@dataclass(frozen=True)
class Variants:
    """The header variants of the sources of a run."""

    # by number, from 1: the header cells, the variant that most sources have first
    names: dict[int, tuple[str, ...]]
    of_source: tuple[int, ...]  # the number of each source's variant; 0 where it has none


def variants_of(heads: Sequence[Head | SourceFault]) -> Variants:
    """Number the distinct headers, the most frequent first."""
    # most heads share their header
    distinct = {id(head.header): head.header for head in heads if isinstance(head, Head)}
    names_of = {key: tuple(header.named.values()) for key, header in distinct.items()}
    named = [names_of[id(head.header)] if isinstance(head, Head) else None for head in heads]
    counts = Counter(names for names in named if names is not None)
    numbers = {names: number for number, (names, _) in enumerate(counts.most_common(), 1)}
    of_source = tuple(0 if names is None else numbers[names] for names in named)
    return Variants({number: names for names, number in numbers.items()}, of_source)


def families_of(
    plan: Plan,
    sources: Sequence[Source],
    heads: Sequence[Head | SourceFault],
    names: Collection[str] | None = None,
) -> tuple[dict[int, Family], list[int]]:
    """Group sources into families. Returns families by number from 1, and the number of each source; 0 without a head.

    `names`: the header cells of all sources of the run; those of these sources when left out.
    """
    numbers: dict[tuple[Header, Format, int, frozenset[str]], int] = {}
    literal = (
        {
            name
            for header in dict.fromkeys(head.header for head in heads if isinstance(head, Head))
            for name in header.names
        }
        if names is None
        else set(names)
    )
    families: dict[int, Family] = {}
    sights: dict[tuple[int, frozenset[str]], MatchContext] = {}
    of_source = []
    for source, head in zip(sources, heads, strict=True):
        if not isinstance(head, Head):
            of_source.append(0)
            continue
        here = places_of(plan, source)
        key = (head.header, head.format, source.group, here)
        number = numbers.setdefault(key, len(numbers) + 1)
        if number not in families:
            marks = (head.format.decimal_mark, head.format.thousands_mark)
            if (source.group, here) not in sights:
                sights[source.group, here] = MatchContext(plan, plan.group(source.group), here, literal)
            bound = bind(head.header, sights[source.group, here], marks)
            families[number] = Family(head.header, head.format, bound)
        of_source.append(number)
    return families, of_source


def with_seen(
    families: Mapping[int, Family],
    family_of: Sequence[int],
    canonical: Mapping[int, Mapping[int, frozenset[str]]],
) -> dict[int, Family]:
    """Mark the columns that a survey saw to be canonical in all sources of a family.

    Returns the families; those with a source that was not looked at as they were.

    Parameters
    ----------
    families, family_of
        The families by number, and the number of each source's.
    canonical
        By source and position: the types in whose canonical form all values were seen to be.
    """
    seen: dict[int, dict[int, frozenset[str]]] = {}
    for number, family in enumerate(family_of):
        here = canonical.get(number, {})
        before = seen.get(family)
        seen[family] = (
            dict(here)
            if before is None
            else {at: types & here[at] for at, types in before.items() if at in here}
        )
    return {number: _marked(family, seen.get(number, {})) for number, family in families.items()}


def _marked(family: Family, seen: Mapping[int, frozenset[str]]) -> Family:
    bindings = tuple(
        replace(one, conversion=replace(one.conversion, seen=True)) if _is_seen(one, seen) else one
        for one in family.bound.bindings
    )
    return replace(family, bound=replace(family.bound, bindings=bindings))


def _is_seen(one: Binding, seen: Mapping[int, frozenset[str]]) -> bool:
    kind = one.conversion.type
    notation = one.conversion.notation
    # a canonical value means the same however else values are written, but for these
    plain = replace(one.conversion, notation=PLAIN) == Conversion(kind) and not (
        notation.format or notation.decimal_mark != "." or one.linears or one.joined
    )
    return plain and bool(one.positions) and all(kind in seen.get(at, ()) for at in one.positions)


@dataclass(frozen=True)
class Matched:
    """Sources whose headers are matched to the columns of the table."""

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
    cached: Mapping[int, SurveyCache] = field(default_factory=dict)

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
    still = {number: one for number, one in intake.cached.items() if _is_still(intake, number, one)}
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
    """The family of a source whose dates have another order than the plan says; its dates are not read."""

    def changed(one: Binding) -> Binding:
        if one.column not in orders:
            return one
        how = one.conversion
        notation = replace(how.notation, date_order="")
        return replace(one, conversion=replace(how, notation=notation, contrary=orders[one.column]))

    return replace(family, bound=replace(family.bound, bindings=tuple(map(changed, family.bound.bindings))))


def _rebound(families: Mapping[int, Family], change: Callable[[Bound], Bound]) -> dict[int, Family]:
    return {number: replace(family, bound=change(family.bound)) for number, family in families.items()}


def _is_still(intake: Intake, number: int, cached: SurveyCache) -> bool:
    """Whether what a survey knows of a source still holds."""
    head = intake.heads[number]
    same = cached.layout == intake.layouts[number] and (cached.head is head or cached.head == head)
    return same and not intake.sources[number].has_changed()


def _kept(families: Iterable[Family], plan: Plan) -> list[tuple[str, Column]]:
    """New columns for headers that no column of the plan claims."""
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
    """Columns that some source lacks, with the numbers of those sources.

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


def summary_of(matched: Matched, number: int) -> SourceSummary:
    """Begin the summary of a source."""
    intake = matched.intake
    source, head = intake.sources[number], intake.heads[number]
    labels = intake.plan.group(source.group).labels
    summary = SourceSummary(
        source.name,
        source.path,
        source.group,
        source.size,
        variant=matched.variants.of_source[number],
        label=labels.get(source.name, labels.get(source.file, source.file)),
        sheet=source.sheet_name,
        workbook=source.workbook,
        layout=intake.layouts[number],
        output=intake.outputs[number] if intake.outputs else "",
        identifiers=intake.identified[number].values,
        header_number=matched.header_of[number],
    )
    family = matched.family(number)
    if family and (wide := family.bound.wide):
        summary.rows_each = len(wide.keys)
    if isinstance(head, Head):
        summary.header_row = head.header_row
        for part, count in head.parts.items():
            summary.ledger.add(part, count)
    return summary
