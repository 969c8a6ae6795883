"""Where a run writes: a table, or tables named after identifiers, the record; here, or in a remote place."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from integrum.errors import OutputError
from integrum.plan.validating import expected
from integrum.publish.write import manifest_in
from integrum.record.run_file import MANIFEST, NAME
from integrum.remote.access import Access, check_access
from integrum.remote.addresses import is_remote, secret_in
from integrum.remote.listing import beside, outputs_at
from integrum.remote.publishing import files_in, is_there_as, names_below, publish, there_is
from integrum.sources.own import PART, OwnWork
from integrum.values.spill import folder_for

if TYPE_CHECKING:
    from integrum.results.outcome import Outcome

STANDARD_OUTPUT = "-"


@dataclass(frozen=True)
class Target:
    """Where a run writes its table and its record."""

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
        """Settle what a killed run left here, before anything can fail."""
        from integrum.publish.swap import settle, settle_in

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
    from integrum.columns.outputs import has_names
    from integrum.publish.places import record_of, record_of_folders, record_of_many
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


class _Staging:
    """Where the local copies of remote outputs belong."""


def far_output(
    run: Callable[[str, Path | None], Outcome],
    to: str,
    record: object,
    access: Mapping[str, Any],
    replaces: bool = False,
) -> Outcome:
    """Make a run on this machine, and publish what it has made.

    Raises OutputError when it cannot be written there; then nothing has changed there.

    Parameters
    ----------
    run
        Makes the run, with a place for the table and one for the record.
    to, record, access
        As for `integrum.assemble`; the two are addresses.
    replaces
        Whether files that are there and that no run wrote are written over.
    """
    from integrum.measures.measures import FILES

    entered: Access = tuple(check_access(access, "access").items())
    record = None if record is None else str(record)
    for address in (to, record):
        if address is not None and not is_remote(address):
            raise OutputError(f"{address}: with a remote table the record is remote, too; give an address")
        if address is not None and secret_in(address):
            raise OutputError(f"{secret_in(address)} in an address is a secret; name it in access instead")
    if to.endswith("/"):  # a folder of files, and perhaps folders below it
        root = to[: to.lower().find(".parquet/") + len(".parquet")]
        folder, root_name = root.rsplit("/", 1)
        inside = f"{root_name}/{to[len(root) + 1 :]}"
    else:
        folder, inside = to.rsplit("/", 1)
    staging = _Staging()
    local = folder_for(staging) / "out"
    outcome = run(f"{local}/{inside}", local / "far-record" if record else None)
    if any(one.path == to for one in outcome.sources):
        raise OutputError(f"{to} is one of the sources, and the run would overwrite it; name another output")
    if outcome.record is None:
        return outcome
    far_record = record.rstrip("/") if record else f"{folder}/{outcome.record.name}"
    if not record and not _is_of(far_record, f"{folder}/{inside.partition('/')[0]}", entered):
        far_record = f"{folder}/{inside.partition('/')[0]}-record"
    _refuse_foreign(far_record, entered)
    files, new = [], set[str]()
    for path in files_in(local):
        in_record = outcome.record in path.parents
        address = (
            f"{far_record}/{path.relative_to(outcome.record).as_posix()}"
            if in_record
            else f"{folder}/{path.relative_to(local).as_posix()}"
        )
        files.append((path, address))
        new.add(address)
    # what tells of the run comes last
    files.sort(key=lambda one: (one[1].startswith(f"{far_record}/"), one[0].name == NAME))
    before = {each for each in names_below(far_record, entered) if each.rsplit("/", 1)[-1] in FILES}
    if to.endswith("/"):
        before |= {
            each
            for each in names_below(to.partition("{")[0].rsplit("/", 1)[0], entered)
            if f"/{PART}" in each
        }
    if not replaces:
        _refuse_others([address for _, address in files], far_record, entered)
    publish(files, sorted(before - new), entered)
    parts = tuple(
        replace(one, address=f"{folder}/{one.output.relative_to(local).as_posix()}" if one.output else "")
        for one in outcome.parts
    )
    return replace(
        outcome, parts=parts, address="" if parts else to, record_address=far_record, _holds=staging
    )


def _refuse_others(addresses: Sequence[str], record: str, access: Access) -> None:
    """Refuse to write over files that are there and are not as a run wrote them; its record says what it wrote."""
    listed = manifest_in(there_is(f"{record}/{MANIFEST}", access) or b"")
    said: dict[str, set[str]] = {}
    for path, content in listed.items():
        said.setdefault(beside(record, path), set()).add(content)
    for address in addresses:
        folder = address.rpartition("/")[0]
        if address.startswith(f"{record}/") or folder in said:  # of a folder of files the record has one hash
            continue
        if is_there_as(address, access, said.get(address, ())) is False:
            raise OutputError(
                f"{address} exists, and is not as a run of Integrum wrote it, so it is not written over; give another "
                "name, or add --replace (in Python replace=True) to write over it"
            )


def _is_of(record: str, output: str, access: Access) -> bool:
    """Whether a place for a record is free or has the record of this output."""
    there = _outputs_of(record, access)
    return not there or all(each == output or each.startswith(f"{output}/") for each in there)


def _outputs_of(record: str, access: Access) -> list[str] | None:
    """The outputs of the record at a place; None where there is none."""
    return outputs_at(record, there_is(f"{record}/{NAME}", access) or b"{}")


def _refuse_foreign(record: str, access: Access) -> None:
    """Refuse a place for the record that has something else in it."""
    if _outputs_of(record, access) is None and names_below(record, access):
        raise OutputError(
            f"the record should go to {record}, but that exists and is not a record of Integrum; name another "
            "folder for the record"
        )
