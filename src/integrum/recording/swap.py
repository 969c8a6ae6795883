"""An output and its record appear together, whole, or not at all: write beside, then rename."""

from __future__ import annotations

import os
import shutil
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from integrum.errors import OutputError
from integrum.sources.own import UNFINISHED, record_run


@dataclass(frozen=True)
class Beside:
    """Where to write while a run goes on; either may be None when it is not wanted."""

    output: Path | None
    record: Path | None


@contextmanager
def together(output: Path | None, record: Path | None, record_files: tuple[str, ...]) -> Iterator[Beside]:
    """Give places to write beside the final ones, and move both there when the block ends well.

    Parameters
    ----------
    output, record
        Where the output and the record shall lie in the end.
    record_files
        The names of the files that belong to a record; others in an earlier record are carried over.

    Yields
    ------
    Beside
        Places in the same folders, with names that are hidden and never taken as sources.

    Raises
    ------
    OutputError
        When a place cannot be written, or the record's place is taken by something else.
    """
    _refuse_foreign(output, record)
    tag = f"{UNFINISHED}{os.getpid()}-{uuid.uuid4().hex[:6]}"
    beside = Beside(_hidden(output, tag), _hidden(record, tag))
    try:
        try:
            for place in (output, record):
                if place:
                    place.parent.mkdir(parents=True, exist_ok=True)
                    _sweep(place)
            if beside.record:
                beside.record.mkdir()
        except OSError as error:
            raise OutputError(f"cannot write beside {output or record}: {error.strerror}") from error
        try:
            yield beside
        except BrokenPipeError:
            raise
        except OSError as error:
            raise OutputError(f"cannot write {output or 'the output'}: {error.strerror or error}") from error
        _swap(beside, output, record, record_files)
    finally:
        if beside.output:
            with suppress(OSError):
                beside.output.unlink(missing_ok=True)
        if beside.record:
            shutil.rmtree(beside.record, ignore_errors=True)


def _hidden(place: Path | None, tag: str) -> Path | None:
    return place.with_name(f".{place.name}{tag}") if place else None


def _refuse_foreign(output: Path | None, record: Path | None) -> None:
    if output and output.is_dir():
        raise OutputError(f"{output} is a folder; give the name of a file in it")
    if record and record.exists() and record_run(record) is None and not _is_empty_folder(record):
        raise OutputError(
            f"the record belongs in {record}, but that is there already and is no record of Integrum; "
            "move it away, or name another place for the record"
        )


def _is_empty_folder(folder: Path) -> bool:
    return folder.is_dir() and not any(folder.iterdir())


def _sweep(place: Path) -> None:
    """Remove what a run that was killed left beside this place."""
    for left in place.parent.glob(f".{_literal(place.name)}{UNFINISHED}*"):
        number = left.name.rsplit(UNFINISHED, 1)[1].split("-")[0]
        if number.isdecimal() and not _is_alive(int(number)):
            if left.is_dir():
                shutil.rmtree(left, ignore_errors=True)
            else:
                left.unlink(missing_ok=True)


def _literal(name: str) -> str:
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in name)


def _is_alive(process: int) -> bool:
    if os.name != "posix":
        return True  # there is no way to ask without harm; leave it
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _swap(beside: Beside, output: Path | None, record: Path | None, files: tuple[str, ...]) -> None:
    old, moved = None, False
    try:
        if record and beside.record:
            if record.exists():
                old = beside.record.with_name(beside.record.name + "-old")
                os.rename(record, old)
            os.rename(beside.record, record)
            moved = True
        if output and beside.output:
            os.replace(beside.output, output)
    except BaseException as error:
        if record and moved:
            shutil.rmtree(record, ignore_errors=True)
        if record and old:
            os.rename(old, record)
        if isinstance(error, OSError):
            raise OutputError(f"cannot put {output or record} in its place: {error.strerror}") from error
        raise
    if old and record:
        for name in set(os.listdir(old)) - set(files):
            with suppress(OSError):
                os.rename(old / name, record / name)
        shutil.rmtree(old, ignore_errors=True)
