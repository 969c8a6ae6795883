"""What is known of a source before its rows are read: where its summary begins."""

from __future__ import annotations

from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched
from integrum.reading.head import Head


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
