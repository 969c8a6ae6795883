"""Outputs and their record appear together, whole, or not at all: written beside, then swapped under a journal.

The journal is a small file beside the record. It is there from before the first rename until after the last one. A
run that was killed in between leaves it, and the next command that comes by completes the swap, or undoes it.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import signal
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from pathlib import Path
from types import FrameType
from typing import Any

from integrum.errors import OutputError
from integrum.measures.measures import FILES
from integrum.record.run_file import MARK
from integrum.sources.own import JOURNAL, UNFINISHED

try:
    import fcntl
except (
    ImportError
):  # not on this system; then a journal is settled without asking whether its run still lives
    fcntl = None  # type: ignore[assignment]

_PATIENCE = 5.0
# whether this process has put a table in its place; an interrupt that comes later says so
HAS_PUT = False


@dataclass(frozen=True)
class Move:
    """A file or a folder that is moved into its place."""

    # where it was written, and where it belongs
    new: Path
    place: Path
    old: Path  # where what was there before is kept until all is done
    is_first: bool = False  # whether there was nothing before
    takes_away: bool = False  # whether nothing comes in its place

    @classmethod
    def to(cls, new: Path, place: Path) -> Move:
        """From a place beside it."""
        return cls(new, place, new.with_name(new.name + "-old"))

    def away(self) -> Move:
        """The same without anything new: what is in the place goes."""
        return replace(self, takes_away=True)


@dataclass(frozen=True)
class Swap:
    """Outputs and their record that appear together; there may be no record."""

    outputs: tuple[Move, ...]
    record: Move | None

    @property
    def moves(self) -> tuple[Move, ...]:
        """All of them."""
        return (*self.outputs, *((self.record,) if self.record else ()))

    @property
    def journal(self) -> Path:
        """Where the journal lies: beside the record, or beside the first output."""
        return journal_of((self.record or self.outputs[0]).place)


def journal_of(place: Path) -> Path:
    """The journal of a record, or of an output without one."""
    return place.with_name(f".{place.name}{JOURNAL}")


def swap(outputs: Sequence[Move], record: Move | None) -> None:
    """Put new outputs and their record in their places; files in an earlier record that are not Integrum's move along.

    Raises OutputError when that cannot be done; then all is as it was.
    """
    if not outputs and not record:
        return
    moves = Swap(tuple(map(_looked_at, outputs)), _looked_at(record) if record else None)
    with _signals_wait():
        try:
            for move in moves.moves:
                if not move.takes_away:
                    _sync(move.new)
            journal = _write_journal(moves)
        except OSError as error:
            raise _cannot(moves, error) from error
        with journal:
            _complete_or_undo(moves)
        global HAS_PUT
        HAS_PUT = True


def _looked_at(move: Move) -> Move:
    return replace(move, is_first=not os.path.lexists(move.place))


def settle(place: Path) -> None:
    """Complete or undo the swap of a killed run.

    Raises OutputError when it can be neither completed nor undone, or a run is just about it.
    """
    journal = journal_of(place)
    waited = 0.0
    while os.path.exists(journal):
        with _locked(journal) as ours:
            if ours:
                moves = _read_journal(journal)
                if moves is None:  # it was not yet whole when the run was killed: nothing was moved
                    journal.unlink(missing_ok=True)
                else:
                    _complete_or_undo(moves)
                return
        if waited >= _PATIENCE:
            raise OutputError(f"another run is writing {place}; try again when it has ended")
        time.sleep(0.1)
        waited += 0.1


def settle_in(folder: Path) -> None:
    """Settle all journals in a folder. One that cannot be settled is left."""
    with suppress(OSError):
        for name in os.listdir(folder):
            if name.startswith(".") and name.endswith(JOURNAL):
                with suppress(OutputError):
                    settle(folder / name[1 : -len(JOURNAL)])


def _complete_or_undo(moves: Swap) -> None:
    try:
        _complete(moves)
    except OSError as error:
        try:
            _undo(moves)
        except OSError as second:
            raise OutputError(
                f"{moves.journal} could be neither completed nor undone: {second.strerror or second}; all its "
                "files still exist"
            ) from error
        raise _cannot(moves, error) from error
    # all is in its place; what is left of the old is in nobody's way, and goes with the next command if not now
    with suppress(OSError):
        _sync_folders(moves)
        for move in moves.moves:
            _remove(move.old)
        os.unlink(moves.journal)


def _complete(moves: Swap) -> None:
    """Complete a swap from wherever it stands. Each step can be repeated."""
    record = moves.record
    if record and os.path.lexists(record.new):
        if os.path.lexists(record.place) and not os.path.lexists(record.old):
            os.rename(record.place, record.old)
        _move_foreign(record.old, record.new)
        os.rename(record.new, record.place)
    for move in moves.outputs:
        if move.takes_away:
            if os.path.lexists(move.place) and not os.path.lexists(move.old):
                os.rename(move.place, move.old)
        elif os.path.lexists(move.new):
            _keep(move)
            os.replace(move.new, move.place)


def _undo(moves: Swap) -> None:
    """Undo a swap."""
    for move in moves.outputs:
        if os.path.lexists(move.old):
            if os.path.exists(move.place) and os.path.samefile(move.old, move.place):
                os.unlink(move.old)
            else:
                if os.path.isdir(move.place):  # a folder is not replaced by another
                    os.rename(move.place, move.new)
                os.replace(move.old, move.place)
        elif move.is_first and not os.path.lexists(move.new) and os.path.lexists(move.place):
            os.rename(move.place, move.new)
    record = moves.record
    if record:
        if not os.path.lexists(record.new) and os.path.lexists(record.place):
            os.rename(record.place, record.new)
        if os.path.lexists(record.old):
            _move_foreign(record.new, record.old)
            os.rename(record.old, record.place)
    for move in moves.moves:
        _remove(move.new)
    _sync_folders(moves)
    os.unlink(moves.journal)


def _keep(move: Move) -> None:
    """Keep what is in the place of an output until all is done."""
    if not os.path.lexists(move.place) or os.path.lexists(move.old):
        return
    try:
        os.link(move.place, move.old)
    except OSError:  # not on this file system
        os.rename(move.place, move.old)


def _move_foreign(start: Path, to: Path) -> None:
    """Move what is not Integrum's from one record to another."""
    if not os.path.isdir(start):
        return
    for name in os.listdir(start):
        if name not in FILES and not os.path.lexists(to / name):
            os.rename(start / name, to / name)


def _remove(path: Path) -> None:
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        with suppress(FileNotFoundError):
            os.unlink(path)


def _cannot(moves: Swap, error: OSError) -> OutputError:
    place = moves.moves[0].place
    return OutputError(f"cannot put {place} in its place: {error.strerror or error}; nothing was changed")


def _sync(path: Path) -> None:
    """Make sure that what was written is on the disk."""
    if path.is_dir():
        for each in path.iterdir():
            _sync(each)
        _sync_folder(path)
        return
    with open(path, "rb+") as file:
        os.fsync(file.fileno())


def _sync_folders(moves: Swap) -> None:
    for folder in {move.place.parent for move in moves.moves}:
        _sync_folder(folder)


def _sync_folder(folder: Path) -> None:
    if os.name != "posix":
        return
    number = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(number)
    finally:
        os.close(number)


@contextmanager
def _written(journal: Path) -> Iterator[None]:
    with _locked(journal):
        yield


def _write_journal(moves: Swap) -> contextlib.AbstractContextManager[None]:
    """Write the journal, and hold it until the swap is over."""
    folder = moves.journal.parent

    def said(move: Move) -> list[object]:
        paths = (os.path.relpath(path, folder) for path in (move.new, move.place, move.old))
        return [*paths, move.is_first, move.takes_away]

    data = {
        "made_by": MARK,
        "outputs": [said(move) for move in moves.outputs],
        "record": said(moves.record) if moves.record else None,
    }
    name = (moves.record or moves.outputs[0]).place.name
    draft = moves.journal.with_name(f".{name}{UNFINISHED}{os.getpid()}-journal")  # swept, when it is left
    try:
        with open(draft, "w", encoding="utf-8") as file:
            json.dump(data, file)
            file.flush()
            os.fsync(file.fileno())
        os.rename(draft, moves.journal)
        _sync_folder(folder)
    except OSError:
        with suppress(OSError):
            draft.unlink(missing_ok=True)
        with suppress(OSError):
            moves.journal.unlink(missing_ok=True)
        raise
    return _written(moves.journal)


def _read_journal(journal: Path) -> Swap | None:
    try:
        data = json.loads(journal.read_text(encoding="utf-8"))
        outputs, record = data["outputs"], data["record"]

        def move(said: Sequence[Any]) -> Move:
            new, place, old = (Path(os.path.normpath(journal.parent / each)) for each in said[:3])
            return Move(new, place, old, bool(said[3]), bool(said[4:5] == [True]))

        return Swap(tuple(map(move, outputs)), move(record) if record else None)
    except (OSError, ValueError, KeyError, IndexError, TypeError):
        return None


@contextmanager
def _locked(journal: Path) -> Iterator[bool]:
    """Lock a journal. Returns False when a living run holds it."""
    if fcntl is None:
        yield True
        return
    try:
        number = os.open(journal, os.O_RDWR)
    except OSError:  # it has just been settled, or may not be written
        yield False
        return
    try:
        try:
            fcntl.flock(number, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield False
            return
        yield True
    finally:
        os.close(number)


@contextmanager
def _signals_wait() -> Iterator[None]:
    """Delay signals until the swap is over."""
    if threading.current_thread() is not threading.main_thread():
        yield  # handlers run in the main thread, which is not this one
        return
    came: list[int] = []

    def later(number: int, frame: FrameType | None) -> None:  # noqa: ARG001
        came.append(number)

    before = {}
    for name in ("SIGINT", "SIGTERM", "SIGHUP"):
        number = getattr(signal, name, None)
        if number is not None and signal.getsignal(number) not in (None, signal.SIG_IGN):
            before[number] = signal.signal(number, later)
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
        for number in came:
            signal.raise_signal(number)
