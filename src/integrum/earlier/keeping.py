"""Refuse a run that would not leave every row of the last table as it was."""

from __future__ import annotations

from integrum.earlier.basis import Basis
from integrum.errors import OutputError
from integrum.problems import first_few
from integrum.recording.changes import Changes

_NAMED = 3


def refuse_loss(basis: Basis, changes: Changes | None) -> None:
    """Refuse a run that would not leave every row of the last table as it was.

    Raises OutputError: naming the first sources of which rows would change.

    `changes`: what has changed since; None when there was no run before, or none that can be compared with.
    """
    if changes is None and not basis.why_not:
        return
    why = (
        basis.why_not
        if changes is None
        else ""
        if basis.has_table
        else "the table is not as the last run left it"
    )
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
