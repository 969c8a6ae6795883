"""Refuse a run that would not leave every row of the last table as it was."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from integrum.earlier.basis import Basis
from integrum.errors import OutputError
from integrum.problems import first_few, near
from integrum.recording.changes import Changes
from integrum.run_file import SCHEMA

_NAMED = 3


def refuse_loss(basis: Basis, changes: Changes | None, unclear: str, there: Sequence[Path]) -> None:
    """Refuse a run that would not leave every row of the last table as it was, or of which that cannot be shown.

    Raises OutputError: naming the first sources of which rows would change.

    Parameters
    ----------
    changes
        What has changed since; None when there was no run before, or none that can be compared with.
    unclear
        Why it cannot be compared with.
    there
        Outputs that are there.
    """
    if changes is None and not basis.why_not and not unclear and not there:
        return  # there are no old rows
    is_older = basis.record is not None and basis.record.run.schema != SCHEMA
    why = unclear or ("" if changes and not is_older else basis.why_not)
    if not why and changes is None:
        why = f"{near(there[0])} is there, and no record says what is in it"
    if not why and not basis.has_table:
        why = "the table is not as the last run left it"
    if why or changes is None:
        raise OutputError(f"nothing was written, as old rows cannot be compared (--only-add): {why}")
    if changes.keeps_rows:
        return
    lost = [f"{one.source} ({one.kind}: {one.said})" for one in changes.sources if not one.keeps_rows]
    lost += [f"column {name}" for name in (*changes.new_columns, *changes.lost_columns)]
    raise OutputError(
        "nothing was written, as rows of the last table would change or go (--only-add): "
        f"{first_few(lost, _NAMED)}; integrum changes lists them"
    )
