"""What is known of a source before its rows are read: where its summary begins."""

from __future__ import annotations

from integrum.engine.intake import Intake
from integrum.engine.ledger import SourceSummary
from integrum.engine.variants import Family
from integrum.reading.head import Head


def summary_of(
    intake: Intake, number: int, variant: int, header: int, family: Family | None
) -> SourceSummary:
    """Begin the summary of a source.

    Parameters
    ----------
    intake
        All sources.
    number
        Its number among them.
    variant, header
        The numbers of its header variant and of its header; 0 when it has none.
    family
        Its family; None when it has none.
    """
    source, head = intake.sources[number], intake.heads[number]
    labels = intake.plan.group(source.group).labels
    summary = SourceSummary(
        source.name,
        source.path,
        source.group,
        source.size,
        variant=variant,
        label=labels.get(source.name, labels.get(source.file, source.file)),
        sheet=source.sheet.name if source.sheet else "",
        workbook=source.workbook,
        layout=intake.layouts[number],
        output=intake.outputs[number] if intake.outputs else "",
        identifiers=intake.identified[number].values,
        header_number=header,
    )
    if family and (wide := family.bound.wide):
        summary.rows_each = len(wide.keys)
    if isinstance(head, Head):
        summary.header_row = head.header_row
        for part, count in head.parts.items():
            summary.ledger.add(part, count)
    return summary
