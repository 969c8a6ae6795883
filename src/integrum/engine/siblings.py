"""What shows that a source is not whole, when it is compared with the others of its group."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from statistics import median

from integrum.columns.header import Header
from integrum.engine.inspecting import Inspection
from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched
from integrum.problems import Problem, counted, quoted

# so many sources of a group can say what is usual, and this share of them has to agree
_ENOUGH, _MOST = 3, 0.75
_ENOUGH_ROWS, _FEW_ROWS, _HARDLY_ANY, _MANY = 5, 0.02, 1.5, 50


def unlike_siblings(
    summaries: Sequence[SourceSummary], inspections: Mapping[int, Inspection]
) -> Iterator[tuple[int, Problem]]:
    """Sources that end otherwise than the others of their group with the same header, or have far fewer rows.

    Yields the number of a source, and what is to be said.
    """
    groups: dict[tuple[int, int], list[int]] = {}
    for number, one in enumerate(summaries):
        if one.is_assembled and number in inspections:
            groups.setdefault((one.group, one.variant), []).append(number)
    for members in groups.values():
        yield from _cut_off(members, summaries, inspections)
        yield from _short(members, summaries)


def _cut_off(
    members: Sequence[int], summaries: Sequence[SourceSummary], inspections: Mapping[int, Inspection]
) -> Iterator[tuple[int, Problem]]:
    files = [number for number in members if not summaries[number].sheet and inspections[number].size]
    open_ended = [number for number in files if not inspections[number].ends_closed]
    whole = len(files) - len(open_ended)
    if whole < max(_ENOUGH, _MOST * len(files)):
        return
    for number in open_ended:
        yield (
            number,
            Problem.of(
                "file-cut-off",
                row=summaries[number].ledger.rows,
                message=f"does not end in a line end, unlike {whole:,} others with its header; its last row may be cut "
                "off",
                hint="compare its size with the original file",
            ),
        )


def _short(members: Sequence[int], summaries: Sequence[SourceSummary]) -> Iterator[tuple[int, Problem]]:
    rows = {number: summaries[number].ledger.data for number in members}
    if len(rows) < _ENOUGH_ROWS:
        return
    usual = median(rows.values())
    for number, count in rows.items():
        if usual >= _MANY and 0 < count < max(_HARDLY_ANY, _FEW_ROWS * usual):
            yield (
                number,
                Problem.of(
                    "few-rows",
                    message=f"{counted(count, 'row')} of data; half of the sources with its header have {usual:,.0f} "
                    "and more",
                    hint="is the file complete?",
                ),
            )


def about_headers(matched: Matched, summaries: Sequence[SourceSummary]) -> Iterator[Problem]:
    """Header cells that are empty or there more than once, said once for each header."""
    sources: dict[Header, list[int]] = {}
    for number, summary in enumerate(summaries):
        family = matched.family(number)
        if family and summary.is_assembled:
            sources.setdefault(family.header, []).append(number)
    for header, having in sources.items():
        if not header.rows:
            continue
        first, more = summaries[having[0]], len(having) - 1
        also = f" (and in {counted(more, 'more source')})" if more else ""
        named, empty, again = header.named, header.nameless, header.repeated
        nameless = [name for at, name in named.items() if at in empty]
        if nameless:
            said = f"{counted(len(nameless), 'column')} without a header, named {quoted(nameless)}{also}"
            yield Problem.of("header-cell-empty", first.source, first.header_row or None, message=said)
        twice = [name for at, name in named.items() if at in again]
        if twice:
            said = f"duplicate headers, named {quoted(twice)}{also}"
            yield Problem.of("header-cell-repeated", first.source, first.header_row or None, message=said)
