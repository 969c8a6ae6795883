"""What a survey says of columns: the union with the evidence for each, and what the columns of a plan are filled from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from integrum.columns.states import IN_PART, UNLISTED
from integrum.columns.union import CountedHeader, unite
from integrum.engine.engine import Engine
from integrum.engine.ledger import SourceSummary
from integrum.plan.model import Plan
from integrum.surveying.findings import ColumnMapping, ColumnSurvey, Evidence
from integrum.surveying.profile import Seen
from integrum.values.evidence import KINDS, main_kind, verdict
from integrum.values.units import same_unit


def columns_of(
    engine: Engine, seen: Iterable[Seen], together: Mapping[str, Sequence[str]]
) -> list[ColumnSurvey]:
    """The union of the columns of what comes in, with the evidence for each."""
    present = [number for number, one in enumerate(engine.summaries) if one.is_assembled]
    counts = Counter(engine.family_of[number] for number in present)
    headers = {number: engine.families[number].header for number in counts}
    key_of = {name: column for column, names in together.items() for name in names}
    united = unite(
        [CountedHeader(tuple(header.named.values()), counts[at]) for at, header in headers.items()], key_of
    )
    column_of = {name: at for at, column in enumerate(united) for name, _ in column.spellings}
    families_with: list[set[int]] = [set() for _ in united]
    units: list[dict[str, int]] = [{} for _ in united]
    for number, header in headers.items():
        for position, name in header.named.items():
            families_with[column_of[name]].add(number)
            _count_unit(units[column_of[name]], header.unit_at(position), counts[number])
    values: list[list[Seen]] = [[] for _ in united]
    for one in seen:
        name = headers[engine.family_of[one.source]].names[one.position]
        values[column_of[name]].append(one)
    lacking_of: dict[frozenset[int], tuple[str, ...]] = {}
    result = []
    for column, having, found, given in zip(united, families_with, values, units, strict=True):
        total: Counter[int] = Counter()
        for one in found:
            total[one.kind] += one.count
        type_name, against = verdict(total)
        lacking = lacking_of.setdefault(
            frozenset(having),
            tuple(engine.summaries[at].source for at in present if engine.family_of[at] not in having),
        )
        result.append(
            ColumnSurvey(
                column.name,
                column.spellings,
                type_name,
                total.total(),
                len(present) - len(lacking),
                lacking,
                {KINDS[kind]: count for kind, count in sorted(total.items())},
                KINDS[main_kind(total)],
                tuple((KINDS[kind], _evidence(kind, found, engine.summaries)) for kind in against),
                tuple(sorted(given.items(), key=lambda item: -item[1])),
            )
        )
    return result


def _count_unit(given: dict[str, int], unit: str, count: int) -> None:
    if unit.strip(" -–"):
        same = next((each for each in given if same_unit(each, unit)), unit)
        given[same] = given.get(same, 0) + count


def _evidence(kind: int, found: Sequence[Seen], summaries: Sequence[SourceSummary]) -> tuple[Evidence, ...]:
    of_kind = sorted((one for one in found if one.kind == kind), key=lambda one: (-one.count, one.source))
    return tuple(
        Evidence(summaries[one.source].source, KINDS[kind], one.count, one.row, one.raw) for one in of_kind
    )


def mapped(engine: Engine, plan: Plan) -> tuple[tuple[ColumnMapping, ...], tuple[tuple[str, int], ...]]:
    """What the columns of a plan are filled from in the sources that come in, and the headers that none of them claims."""
    if not plan.columns:
        return (), ()
    present = [number for number, one in enumerate(engine.summaries) if one.is_assembled]
    headers: list[Counter[str]] = [Counter() for _ in plan.table_columns]
    lacking: list[list[str]] = [[] for _ in plan.table_columns]
    unlisted: Counter[str] = Counter()
    for number in present:
        family = engine.families[engine.family_of[number]]
        given = engine.intake.identified[number].values
        for at, binding in enumerate(family.bound.bindings):
            headers[at].update(binding.headers)
            if not binding.positions and binding.column not in given:
                lacking[at].append(engine.summaries[number].source)
        unlisted.update(cell.name for cell in family.bound.cells if cell.state == UNLISTED)
    mapping = tuple(
        ColumnMapping(
            column.name,
            column.type,
            tuple(found.most_common()),
            column.name in plan.identifiers,
            tuple(absent),
        )
        for column, found, absent in zip(plan.table_columns, headers, lacking, strict=True)
    )
    return mapping, tuple(unlisted.most_common())


def states_of(engine: Engine) -> dict[tuple[int, str], tuple[tuple[str, str], ...]]:
    """By variant and header cell the states that it has in the sources that come in, each with its column."""
    found: dict[tuple[int, str], dict[tuple[str, str], None]] = {}
    for number, summary in enumerate(engine.summaries):
        if summary.is_assembled:
            bound = engine.families[engine.family_of[number]].bound
            for cell in bound.cells:
                states = found.setdefault((summary.variant, cell.name), {})
                states[cell.state, cell.column] = None
                if cell.state == IN_PART and bound.wide:  # the cell itself is a value of these columns
                    states |= dict.fromkeys((IN_PART, name) for name in bound.wide.names)
    return {key: tuple(states) for key, states in found.items()}
