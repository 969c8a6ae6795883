"""Where a run shall write: the table, or tables named after identifiers, and the record."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from integrum.errors import OutputError
from integrum.plan.validating import expected
from integrum.sources.own import OwnWork

STANDARD_OUTPUT = "-"


@dataclass(frozen=True)
class Target:
    """Where a run shall write."""

    path: Path | None  # the file, perhaps with identifiers in its name; None for memory or standard output
    record: Path | None  # the folder of the record; None where there shall be none
    many: bool  # whether there is a file for each value of identifiers
    # where the table goes when it goes to no file
    to_standard_output: bool
    in_memory: bool
    in_files: bool = False  # whether it is a folder of Parquet files, or several of them

    @property
    def template(self) -> str:
        """The name with identifiers in it; empty when there is one table."""
        return self._name if self.many else ""

    @property
    def table(self) -> str:
        """The one file; empty when there is none."""
        return self._name if self.path and not self.many else ""

    @property
    def _name(self) -> str:
        return f"{self.path}/" if self.in_files else str(self.path)

    def places(self, outputs: Iterable[str]) -> dict[str, Path]:
        """Where each output of a run lies, by the name that the run has for it; none where there is no file."""
        return {name: Path(name) for name in dict.fromkeys(outputs)} if self.path else {}

    def settle(self) -> None:
        """Complete or undo what a run that was killed left half done here, before anything can fail."""
        from integrum.recording.swap import settle, settle_in

        if self.record:
            settle(self.record)
            settle_in(self.record.parent)

    def own_work(self) -> OwnWork:
        """What the run is going to write, and what the one before has written: never sources."""
        own = OwnWork(path for path in (self.path, self.record) if path and not self.many)
        if self.record:
            own.learn(self.record, of_this_run=True)
        return own


def target_of(
    to: str | os.PathLike[str] | None, record: str | os.PathLike[str] | None, guard_formulas: bool
) -> Target:
    """Look at where a call wants its table and its record.

    Raises OutputError when it is not the name of a file that can be written.

    `to`, `record`, `guard_formulas`: as for `integrum.assemble`.

    Examples
    --------
    >>> target_of("out/{lake}.csv", None, False).record.name
    'lake-record'
    """
    from integrum.naming.outputs import has_names
    from integrum.recording.record_places import record_of, record_of_folders, record_of_many
    from integrum.writing.formats import check_suffix
    from integrum.writing.parquet_folder import is_in_folder

    for name, place in (("to", to), ("record", record)):
        if place is not None and not isinstance(place, (str, os.PathLike)):
            raise OutputError(f"{name}: {expected('the name of a file or folder', place)}")
    to = None if to is None else os.fspath(to)
    for place in (to, record):
        if place is not None and "\0" in os.fspath(place):
            raise OutputError(f"{os.fspath(place)!r}: a path cannot have the character NUL in it")
    many = to is not None and has_names(to)
    path = Path(os.path.abspath(to)) if to not in (None, STANDARD_OUTPUT) else None
    in_files = to is not None and to.endswith(("/", os.sep))
    if path and in_files:
        if not is_in_folder(path):
            raise OutputError(f"{to}: a folder as the output ends with .parquet/, such as lakes.parquet/")
        if guard_formulas:
            raise OutputError(f"{to}: guard_formulas is for CSV; in .parquet a text is never a formula")
    elif path:
        check_suffix(path, guard_formulas)
    elif guard_formulas and to is None:
        raise OutputError("guard_formulas is for CSV; give a .csv file as `to`")
    records = Path(os.path.abspath(record)) if record is not None else None
    if path and records is None:
        if in_files:
            records = record_of_folders(str(path))
        else:
            records = record_of_many(str(path)) if many else record_of(path)
    return Target(path, records, many, to == STANDARD_OUTPUT, to is None, in_files)
