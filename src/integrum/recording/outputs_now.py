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
    changed = [one.path.name for one in record.outputs if not is_as_left(one)]
    if not changed:
        return ""
    are = "is" if len(changed) == 1 else "are"
    return (
        f"{first_few(changed, _NAMED)} {are} not as the run wrote it any more; all that is said here is about what the "
        "run wrote."
    )


def is_as_left(one: WrittenOutput) -> bool:
    """Whether an output is what the run has written; only one of another time of change is read."""
    with suppress(OSError):
        if size_of(one.path) != one.bytes:
            return False
        return one.path.stat().st_mtime_ns == one.modified or content_of(one.path) == one.content
    return False
