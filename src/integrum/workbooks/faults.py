"""Why a workbook cannot be read, in plain words."""

from __future__ import annotations

from integrum.problems import SourceFault


def damaged(detail: str = "") -> SourceFault:
    """The fault of a workbook that cannot be read."""
    return SourceFault(
        "unreadable",
        f"it is damaged or cut off{': ' + detail if detail else ''}",
        "open it in a spreadsheet program, which may repair it, or get a complete copy",
    )


def protected() -> SourceFault:
    """The fault of a workbook under a password."""
    return SourceFault(
        "protected",
        "it is protected by a password",
        "open it in a spreadsheet program and save it without a password",
    )
