"""An outcome in a few plain lines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from integrum.codes import SEVERITIES
from integrum.engine.ledger import account_of
from integrum.problems import counted, first_few, near, number_of
from integrum.recording.overview import shape_of

if TYPE_CHECKING:
    from integrum.recording.outcome import Outcome


_NAMED = 5


def summary(outcome: Outcome) -> list[str]:
    """The outcome in a few plain lines."""
    assembled = sum(one.is_assembled for one in outcome.sources)
    lines = [shape_of(outcome.rows, len(outcome.schema), assembled, len(outcome.sources))]
    if outcome.is_assembled:
        lines.append(str(outcome.lost))
    else:
        lines.append("nothing was assembled, so nothing was written; existing files were not changed")
    lines.append(f"ledger: {account_of(outcome.sources)}")
    wide = [one for one in outcome.sources if one.rows_each > 1 and one.is_assembled]
    if wide:
        rows, made, empty = (
            sum(each)
            for each in zip(
                *((one.ledger.data, one.table_rows, one.empty_cells) for one in wide), strict=True
            )
        )
        lines.append(
            f"wide: {rows:,} rows of data became {made:,} rows of the table; {empty:,} cells are empty"
        )
    aside = [one for one in outcome.sources if not one.is_assembled]
    if aside:
        lines.append(f"set aside: {counted(len(aside), 'source')}")
        lines += [f"  {one.source} ({one.reason})" for one in aside[:5]]
        lines += [f"  and {len(aside) - 5:,} more"] if len(aside) > 5 else []
    found = [
        counted(count, severity)
        for severity in SEVERITIES
        if (count := number_of(severity, outcome.problems))
    ]
    lines.append(f"problems: {', '.join(found) or 'none'}")
    for part in outcome.parts:
        lines.append(f"output: {part.address or near(part.output)} ({part.rows:,} rows)")
    if outcome.output:
        lines.append(f"output: {outcome.address or near(outcome.output)}")
    if outcome.taken_away:
        names = first_few([near(path) for path in outcome.taken_away], _NAMED)
        lines.append(f"deleted, as this run does not make them any more: {names}")
    if outcome.left:
        names = first_few([near(path) for path in outcome.left], _NAMED)
        lines.append(f"left from an earlier run, and edited since; not part of this table: {names}")
    if outcome.record:
        lines.append(f"record: {outcome.record_address or near(outcome.record)}")
        lines.append(f"seal: {outcome.seal}")
    if outcome.changes is not None:
        lines.append(f"since the last run: {outcome.changes.summary()}")
        if outcome.taken_over:
            read = len(outcome.sources) - outcome.taken_over
            lines.append(
                f"taken over as they were: {outcome.taken_over:,} of {counted(len(outcome.sources), 'source')}; "
                f"read: {read:,}"
            )
        elif outcome.why_all:
            lines.append(f"every source was read again: {outcome.why_all}")
    elif outcome.why_all:
        lines.append(f"every source was read again: {outcome.why_all}")
    return lines
