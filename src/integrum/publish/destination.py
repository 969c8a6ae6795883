"""Where a run writes: its outputs and their record, opened beside their places, and put there when all is well."""

from __future__ import annotations

import os
import shutil
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path
from types import TracebackType
from typing import Self

import pyarrow as pa

from integrum.assembling.run import RunResult
from integrum.errors import OutputError
from integrum.intake.intake import CannotTake
from integrum.measures.items import RowRun
from integrum.measures.measure import RecordSink
from integrum.measures.tables import LEFT_OUT, ROWS, SET_ASIDE
from integrum.problems.found import Entries
from integrum.problems.problem import clipped
from integrum.publish.own_files import OwnFiles, is_damaged, keep_changed
from integrum.publish.places import check_folder, others_beside
from integrum.publish.streamed import StreamedFile, StreamedList
from integrum.publish.swap import Move, settle, settle_in, swap
from integrum.publish.tables_about import about_run
from integrum.publish.write import (
    About,
    UnchangedOutput,
    WrittenOutput,
    metadata_about,
    relative,
    write_record,
)
from integrum.reading.parts import LeftOutRow, SetAside
from integrum.record.hashing import hash_of
from integrum.record.run_file import is_record, outputs_of, wrote
from integrum.record.table import Named, Places
from integrum.sources.own import UNFINISHED, metadata_place, size_of
from integrum.sources.source import Source
from integrum.writing.csv import CsvOutput
from integrum.writing.formats import format_of
from integrum.writing.output import CSV, PARQUET, FileOutput, KeptOutput, MemoryOutput, Output, suffix_of
from integrum.writing.parquet_folder import ParquetFolder
from integrum.writing.part_files import remove_folder

# systems take names of 255 bytes; the hidden ones of a run have some more letters than the name itself
_LONGEST_NAME = 220


class Destination:
    """The outputs of a run and their record.

    Parameters
    ----------
    outputs
        Where each output shall lie, by the name that the run has for it; none: one in memory, or on standard output.
    record
        Where the record shall lie, if there shall be one.
    guarded
        Whether CSV, and the record's tables with it, is guarded against formulas.
    to_standard_output
        Whether the table goes there, where there is no file.
    scratch
        A folder to write in instead of beside the places; then nothing can be published.
    own
        Knows which files may be written over.
    whole
        The table that is there, where it stays as it is.
    touched
        Whether it gets the time of this run then.

    Attributes
    ----------
    outputs
        What the run writes to, by name.
    keep_aside, keep_left_out
        What takes cells, rows and sources that are kept out of the table, and all rows that are not in it.
    written
        The outputs that were written, by name.
    seal
        The seal of table and record, once they are written.
    taken_away, left
        Outputs of earlier runs that this one does not make: those that go, and those that were changed since and stay.
    guarded
        Whether CSV is guarded against formulas.
    parts
        A folder for the files that workers write, where they may write some.
    """

    def __init__(
        self,
        outputs: dict[str, Path],
        record: Path | None,
        sources: Sequence[Source],
        guarded: bool = False,
        to_standard_output: bool = False,
        scratch: Path | None = None,
        in_files: bool = False,
        elsewhere: bool = False,
        own: OwnFiles | None = None,
        whole: UnchangedOutput | None = None,
        touched: bool = False,
    ) -> None:
        self._whole, self._touched = whole, touched
        self._times: dict[Path, int] = {}
        self._scratch, self._count = scratch, 0
        self._in_files, self._has_parts = in_files, bool(outputs) and (in_files or elsewhere)
        self.parts: Path | None = None
        self._gone: list[Move] = []
        self._places, self._record, self.guarded = outputs, record, guarded
        names = [Named(one.file, one.sheet_name) for one in sources]
        self._names = Places(dict(enumerate(names)))
        self.memory = MemoryOutput()
        self.outputs: dict[str, Output] = {}
        if not outputs:
            self.outputs[""] = CsvOutput(sys.stdout.buffer, guarded) if to_standard_output else self.memory
        self._files: dict[str, FileOutput | KeptOutput] = {}
        self.keep_aside: StreamedFile[SetAside] | StreamedList[SetAside] = StreamedList(self._names)
        self.keep_left_out: StreamedFile[LeftOutRow] | StreamedList[LeftOutRow] = StreamedList(self._names)
        self._keep_rows: StreamedFile[RowRun] | None = None
        self.written: dict[str, WrittenOutput] = {}
        self.seal = ""
        self.taken_away: list[Path] = []
        self.left: list[WrittenOutput] = []
        self._own = own or OwnFiles(record)

    def __enter__(self) -> Self:
        """Open all outputs under hidden names, which are never sources."""
        places = [*self._places.values(), *((self._record,) if self._record else ())]
        for place in places:
            _check_length(place)
        if self._scratch is None:
            self._check(places)
        tag = f"{UNFINISHED}{os.getpid()}-{os.urandom(3).hex()}"
        self._moves = {name: self._move(place, tag) for name, place in self._places.items()}
        self._record_move = self._move(self._record, tag) if self._record else None
        self._beside = {}
        for name, place in self._places.items():
            if suffix_of(place) == CSV and not self._in_files:
                metadata = metadata_place(place)
                self._beside[name] = self._move(metadata, tag)
        try:
            if self._scratch is None:
                for place in places:
                    place.parent.mkdir(parents=True, exist_ok=True)
                    _sweep(place)
                for move in self._beside.values():
                    _sweep(move.place)
            if self._record_move:
                self._record_move.new.mkdir()
                folder = self._record_move.new
                self.keep_aside = StreamedFile(folder, SET_ASIDE, self._names, self.guarded)
                letters = (lambda one: len(one.raw)) if len(self._places) < 2 else None
                self.keep_left_out = StreamedFile(folder, LEFT_OUT, self._names, self.guarded, letters)
            if self._has_parts:
                beside = self._record_move or next(iter(self._moves.values()))
                self.parts = beside.new.with_name(f"{beside.new.name}-parts")
                self.parts.mkdir()
            for name, move in self._moves.items():
                if self._whole:
                    like = format_of(move.place)
                    self._files[name] = KeptOutput(
                        like, self._whole.begins_at, self._whole.output.content, _comes_in_now
                    )
                else:
                    kind = ParquetFolder if self._in_files else format_of(move.place)
                    self._files[name] = kind.at(move.new, self.guarded)
                self.outputs[name] = self._files[name]
        except OSError as error:
            self._clean()
            raise OutputError(f"cannot write beside {places[0]}: {error.strerror}") from error
        except BaseException:  # an interruption comes at any time
            self._clean()
            raise
        return self

    def _check(self, places: Sequence[Path]) -> None:
        """Refuse places that are something else, and settle what a killed run left."""
        for place in self._places.values():
            if self._in_files:
                check_folder(place)
            elif os.path.isdir(place):
                hint = (
                    ", or a / behind it for a folder of Parquet files" if suffix_of(place) == PARQUET else ""
                )
                raise OutputError(f"{place} is a folder; give the name of a file in it{hint}")
        for folder in {place.parent for place in places}:
            settle_in(folder)
        if self._record:
            settle(self._record)
            _refuse_foreign(self._record)
        self._others_beside()
        for place in self._places.values():
            self._own.check(place)
            if suffix_of(place) == CSV and not self._in_files:
                self._own.check_metadata(metadata_place(place), place)

    def _move(self, place: Path, tag: str) -> Move:
        hidden = _hidden(place, tag)
        if self._scratch is None:
            return Move.to(hidden, place)
        self._count += 1
        return Move.to(self._scratch / f"{self._count}{hidden.name}", place)

    def place_now(self, name: str) -> Path:
        """The path of an output before it is moved into its place."""
        return self._moves[name].place if self._whole else self._moves[name].new

    @property
    def record_now(self) -> Path:
        """The folder in which the record is written before it is moved into its place."""
        assert self._record_move
        return self._record_move.new

    @property
    def keep(self) -> RecordSink:
        """The sink for rows and cells that are not in the table."""
        return RecordSink(self.keep_aside, self.keep_left_out, self._rows)

    def _rows(self, runs: Sequence[RowRun]) -> None:
        if runs and self._record_move:
            self._keep_rows = self._keep_rows or StreamedFile(
                self._record_move.new, ROWS, self._names, self.guarded
            )
            self._keep_rows(runs)

    def publish(self, made: RunResult, about: About) -> bool:
        """Close everything, write the record, and move all into its place."""
        moves = self.finish(made, about)
        if moves is None:
            return False
        self._own.check_again()
        for place, when in self._times.items():
            os.utime(place, ns=(when, when))
        swap(moves, self._record_move)
        for move in self._gone:
            with suppress(OSError):  # an empty folder in the place of one that is no longer part of the table
                move.place.rmdir()
        return True

    def finish(self, made: RunResult, about: About) -> list[Move] | None:
        """Close everything, and write the record.

        Returns what is to be put in its place; None when no source was assembled: then outputs and record are left as
        they were. One of several outputs that has no rows is not written.
        """
        for kept in (self.keep_aside, self.keep_left_out, self._keep_rows):
            if kept:
                kept.close()
        if not any(one.is_assembled for one in made.sources):
            return None
        moves = [*self._emptied(), *self._no_longer_made(made)]
        metadata: dict[Path, str] = {}
        for name, file in self._files.items():
            if len(self._files) == 1:
                place, record = self._moves[name].place, self._record or self._moves[name].place.parent
                near = relative(place, record, about.is_far)
                now = self._record_move.new if self._record_move else None
                file.document(partial(about_run, made, about.plan, near, now))
            file.close()
            if made.rows[name] or len(self._files) == 1:
                move, now = self._moves[name], self.place_now(name)
                if not self._whole:
                    moves.append(move)
                size, when = size_of(now), now.stat().st_mtime_ns
                if self._whole and self._touched:
                    when = self._times[now] = time.time_ns()
                self.written[name] = WrittenOutput(move.place, made.rows[name], size, file.content(), when)
                if name in self._beside:
                    beside = self._beside[name]
                    beside.new.write_text(
                        metadata_about(move.place.name, made, about.plan, about.guarded), encoding="utf-8"
                    )
                    metadata[beside.place] = hash_of(beside.new)
                    moves.append(beside)
        if self._record_move:
            folder, place = self._record_move.new, self._record_move.place
            self.seal = write_record(folder, place, about, made, self.written, metadata, self.left)
            if self._scratch is None:
                keep_changed(place, folder, self._own.record_is_whole)
        return moves

    def _no_longer_made(self, made: RunResult) -> Iterator[Move]:
        """Outputs of earlier runs that this run does not make. Unchanged ones are removed, others are reported."""
        if self._scratch is not None or not self._record or self._in_files:
            return
        now = {place for name, place in self._places.items() if made.rows[name] or len(self._files) == 1}
        before = [Path(path) for path in wrote(self._record)]
        tag = f"{UNFINISHED}{os.getpid()}-{os.urandom(3).hex()}"
        for place in before:
            if place in now:
                continue
            if os.path.isfile(place) and not self._own.is_as_written(place):
                self.left.append(WrittenOutput(place, 0, size_of(place), self._own.first_hash(place)))
                continue
            if os.path.isfile(place):
                self.taken_away.append(place)
                yield self._move(place, tag).away()
            metadata = metadata_place(place)
            if suffix_of(place) == CSV and self._own.has_own_metadata(metadata, place):
                yield self._move(metadata, tag).away()

    def _others_beside(self) -> list[Path]:
        """Folders of an earlier table beside the folders of this one.

        Raises OutputError when there is one that Integrum did not write.
        """
        others = others_beside(self._places.values()) if self._in_files else []
        before = outputs_of(self._record) if others and self._record else {}
        for place in others:
            if str(place) not in before:
                raise OutputError(
                    f"{place} would be read with the table, but is not part of it; move it away"
                )
            self._own.check(place)  # it is going to be emptied
        return others

    def _emptied(self) -> list[Move]:
        """Folders of an earlier table that this table does not have; each is replaced by an empty one."""
        moves = []
        for number, place in enumerate(self._others_beside()):
            move = self._move(place, f"{UNFINISHED}{os.getpid()}-gone{number}")
            move.new.mkdir()
            self._gone.append(move)
            moves.append(move)
        return moves

    @property
    def set_aside(self) -> Entries[SetAside]:
        """What was set aside, in a run without a record."""
        return Entries(self.keep_aside.entries if isinstance(self.keep_aside, StreamedList) else (), SetAside)

    @property
    def left_out(self) -> Entries[LeftOutRow]:
        """The left-out rows, in a run without a record."""
        kept = self.keep_left_out
        return Entries(kept.entries if isinstance(kept, StreamedList) else (), LeftOutRow)

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Remove what was not moved into its place."""
        self._clean()
        if isinstance(error, OSError) and not isinstance(error, BrokenPipeError):
            place = next(iter(self._places.values()), self._record) or "the output"
            raise OutputError(f"cannot write {place}: {error.strerror or error}") from error

    def _clean(self) -> None:
        for file in self._files.values():
            with suppress(Exception):
                file.discard()
        for kept in (self.keep_aside, self.keep_left_out, self._keep_rows):
            with suppress(Exception):
                if kept:
                    kept.close()
        for move in self._gone:
            with suppress(OSError):
                move.new.rmdir()
        for move in (*self._moves.values(), *self._beside.values()):
            with suppress(OSError):
                move.new.unlink(missing_ok=True)
        if self._record_move:
            shutil.rmtree(self._record_move.new, ignore_errors=True)
        if self.parts:
            remove_folder(self.parts)
        for move in self._moves.values():
            if self._in_files and move.new.is_dir():
                shutil.rmtree(move.new, ignore_errors=True)


def _comes_in_now(batch: pa.RecordBatch, counts: Sequence[int]) -> tuple[None, Sequence[int]]:
    """Note the rows of a table that stays as it is. A source without rows changes nothing."""
    if batch.num_rows:
        raise CannotTake("a source that was set aside in the last run comes in now")
    return None, counts


def _check_length(place: Path) -> None:
    """Refuse a name that is too long for the hidden names used while writing."""
    too_long = len(os.fsencode(place.name)) - _LONGEST_NAME
    if too_long > 0:
        raise OutputError(
            f"{clipped(place.name)}: the name is {too_long} bytes too long; at most {_LONGEST_NAME} are "
            "possible"
        )


def _hidden(place: Path, tag: str) -> Path:
    return place.with_name(f".{place.name}{tag}")


def _refuse_foreign(record: Path) -> None:
    empty = os.path.isdir(record) and not any(record.iterdir())
    if os.path.exists(record) and not is_record(record) and not empty and not is_damaged(record):
        raise OutputError(
            f"the record should go to {record}, but that exists and is not a record of Integrum; move it "
            "away, or name another folder for the record"
        )


def _sweep(place: Path) -> None:
    """Remove what a killed run left here."""
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
