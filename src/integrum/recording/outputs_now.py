"""Whether the outputs of a record are still as the run left them, for those who look at its record."""

from __future__ import annotations

from contextlib import suppress

from integrum.problems import first_few
from integrum.recording.read import Record
from integrum.recording.write import WrittenOutput
from integrum.sources.own import size_of
from integrum.writing.parquet_folder import content_of

_NAMED = 3


def since_changed(record: Record) -> str:
    """Say which outputs are not as the run left them; an empty text when all are."""
    changed = [
        one.path.name for one in record.outputs if not (is_as_written(one, True) or is_as_written(one))
    ]
    if not changed:
        return ""
    are = "is" if len(changed) == 1 else "are"
    return (
        f"{first_few(changed, _NAMED)} {are} not as the run wrote it any more; all that is said here is about what the "
        "run wrote."
    )


def is_as_written(one: WrittenOutput, trusts_times: bool = False) -> bool:
    """Whether an output is what the run has written.

    `trusts_times`: whether the size and the time of change stand for the content.
    """
    with suppress(OSError):
        state = one.path.stat()
        if size_of(one.path) != one.bytes:
            return False
        return state.st_mtime_ns == one.modified if trusts_times else content_of(one.path) == one.content
    return False
