"""What a survey says of columns: the union with the evidence for each, and what the columns of a plan are filled from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace

from integrum.columns.expectation import missing_in, where_missing
from integrum.columns.header import IN_PART, UNLISTED
from integrum.columns.union import CountedHeader, unite
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.measures.outlying import outlying_ranges
from integrum.problems.problem import Problem
from integrum.surveying.column_values import ColumnValues
from integrum.surveying.decide import with_common_codes
from integrum.surveying.decision import Decision, decision_lines
from integrum.surveying.findings import ColumnMapping, ColumnSurvey, SourceRange
from integrum.surveying.missing import first_places
from integrum.surveying.seen import Seen, as_sketch
from integrum.values.evidence import ERROR, KINDS
from integrum.values.types import TYPES


def columns_of(
    matched: Matched,
    summaries: Sequence[SourceSummary],
    values_of: ColumnValues,
    together: Mapping[str, Sequence[str]],
) -> tuple[list[ColumnSurvey], list[tuple[int, Problem]]]:
    """The union of the columns, with the evidence for each; and the outlying sources."""
    present = [number for number, one in enumerate(summaries) if one.is_assembled]
    counts = Counter(matched.family_of[number] for number in present)
    headers = {number: matched.families[number].header for number in counts}
    key_of = {name: column for column, names in together.items() for name in names}
    united = unite(
        [CountedHeader(tuple(header.named.values()), counts[at]) for at, header in headers.items()], key_of
    )
    column_of = {name: at for at, column in enumerate(united) for name, _ in column.spellings}
    families_with: list[set[int]] = [set() for _ in united]
    for number, header in headers.items():
        for name in header.named.values():
            families_with[column_of[name]].add(number)
    having_values = [values_of.of(name for name, _ in column.spellings) for column in united]
    lacking_of: dict[frozenset[int], tuple[str, ...]] = {}
    every = [summaries[at].source for at in present if matched.family_of[at]]
    words_of: dict[tuple[str, ...], str] = {}
    result = []
    far: list[tuple[int, Problem]] = []
    decisions: list[Decision] = []
    for column, having, some in zip(united, families_with, having_values, strict=True):
        total: Counter[int] = Counter()
        for one in some.seen:
            total[one.kind] += one.count
        units_here = tuple(sorted(some.units.items(), key=lambda item: -item[1]))
        decisions.append(values_of.decide(name for name, _ in column.spellings))
        if TYPES[decisions[-1].type].is_number:
            alike = values_of.in_unit(some.ranges, units_here[0][0] if units_here else "")
            far += outlying_ranges(column.name, [one.source for one in alike], as_sketch(alike))
        lacking = lacking_of.setdefault(
            frozenset(having),
            tuple(summaries[at].source for at in present if matched.family_of[at] not in having),
        )
        result.append(
            ColumnSurvey(
                column.name,
                column.spellings,
                decisions[-1].type,
                total.total(),
                len(present) - len(lacking),
                lacking,
                {KINDS[kind]: count for kind, count in sorted(total.items())},
                units_here,
                missing_in=words_of.setdefault(lacking, where_missing(lacking, every) if lacking else ""),
            )
        )
    names = [one.source for one in summaries]
    decisions = with_common_codes(decisions, [some.seen for some in having_values])
    said = [
        replace(
            one,
            decision=made,
            filled=one.filled - sum(place.count for place in made.missing),
            said=(*decision_lines(made, names), *_errors(some.seen, names)),
            ranges=tuple(
                SourceRange(names[each.source], each.count, each.least, each.median, each.greatest)
                for each in some.ranges
            ),
        )
        for one, made, some in zip(result, decisions, having_values, strict=True)
    ]
    return said, far


def _errors(found: Sequence[Seen], names: Sequence[str]) -> list[str]:
    """Errors of spreadsheets, which are bad values of any type."""
    errors = first_places(one for one in found if one.kind == ERROR)
    if not errors:
        return []
    count, first = sum(one.count for one in errors), errors[0]
    are = "errors of spreadsheets" if count > 1 else "error of a spreadsheet"
    return [
        f'{count:,} {are}, first "{first.text}" in {names[first.source]}, row {first.row:,}: no value in the table'
    ]


def mapped(
    matched: Matched, summaries: Sequence[SourceSummary]
) -> tuple[tuple[ColumnMapping, ...], tuple[tuple[str, int], ...]]:
    """What the columns of a plan are filled from in the sources that come in, and the headers that none of them claims."""
    plan = matched.intake.plan
    if not plan.columns:
        return (), ()
    present = [number for number, one in enumerate(summaries) if one.is_assembled]
    headers: list[Counter[str]] = [Counter() for _ in plan.table_columns]
    every = [summaries[number].source for number in present]
    lacking: list[list[str]] = [[] for _ in plan.table_columns]
    unlisted: Counter[str] = Counter()
    for number in present:
        family = matched.families[matched.family_of[number]]
        given = matched.intake.identified[number].values
        for at, binding in enumerate(family.bound.bindings):
            headers[at].update(binding.headers)
            if not binding.positions and binding.column not in given:
                lacking[at].append(summaries[number].source)
        unlisted.update(cell.name for cell in family.bound.cells if cell.state == UNLISTED)
    mapping = tuple(
        ColumnMapping(
            column.name,
            column.type,
            tuple(found.most_common()),
            column.name in plan.identifiers,
            tuple(absent),
            missing_in(absent, every) if absent else "",
        )
        for column, found, absent in zip(plan.table_columns, headers, lacking, strict=True)
    )
    return mapping, tuple(unlisted.most_common())


def states_of(
    matched: Matched, summaries: Sequence[SourceSummary]
) -> dict[tuple[int, str], tuple[tuple[str, str], ...]]:
    """By variant and header cell the states that it has in the sources that come in, each with its column."""
    found: dict[tuple[int, str], dict[tuple[str, str], None]] = {}
    for number, summary in enumerate(summaries):
        if summary.is_assembled:
            bound = matched.families[matched.family_of[number]].bound
            for cell in bound.cells:
                states = found.setdefault((summary.variant, cell.name), {})
                states[cell.state, cell.column] = None
                if cell.state == IN_PART and bound.wide:  # the cell itself is a value of these columns
                    states |= dict.fromkeys((IN_PART, name) for name in bound.wide.names)
    return {key: tuple(states) for key, states in found.items()}
