"""Jobs on the workers: one by one to threads, in packed stretches to other processes."""

from __future__ import annotations

import io
import os
import pickle
from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Executor
from contextlib import AbstractContextManager
from dataclasses import dataclass
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

from integrum.dispatch.failing import Failed, guarded
from integrum.dispatch.job import Task
from integrum.errors import WorkersLost
from integrum.intake.inspecting import worker_died
from integrum.intake.matched import Family
from integrum.reading.cutting import PIECE
from integrum.reading.stream import SequentialReader
from integrum.workers.pool import ahead, shares_memory, workers_of

# bytes of sources in a stretch
STRETCH = 64 << 20

# opens a worker for a stretch
Begin = Callable[[], AbstractContextManager[Any]]


@dataclass(frozen=True)
class Stretch:
    """Consecutive jobs for one worker process. It says where their pieces lie and does not hold them."""

    jobs: tuple[Task, ...]

    @property
    def sources(self) -> list[int]:
        """The numbers of its sources."""
        return sorted({piece.source for job in self.jobs for piece in job.pieces})

    @property
    def bytes(self) -> int:
        """The bytes that are read for it."""
        return sum(piece.bytes for job in self.jobs for piece in job.pieces)

    def of_source(self, number: int) -> Stretch:
        """The jobs of one source in it."""
        return Stretch(
            tuple(
                job.part(number) for job in self.jobs if any(piece.source == number for piece in job.pieces)
            )
        )


def stretches(jobs: Iterable[Task], size: int) -> Iterator[Stretch]:
    """Group jobs into stretches. A source that can only be read from its start stays in one stretch."""
    some: list[Task] = []
    held = 0
    for job in jobs:
        if some and held >= size and not some[-1].is_continued_by(job):
            yield Stretch(tuple(some))
            some, held = [], 0
        some.append(job)
        held += sum(piece.bytes for piece in job.pieces)
    if some:
        yield Stretch(tuple(some))


def do_stretch(stretch: Stretch, begin: Begin) -> list[Any | Failed]:
    """Do the jobs of a stretch, one after the other, on a worker."""
    with begin() as worker, SequentialReader() as sequential:
        return [guarded(job.reading(sequential), worker) for job in stretch.jobs]


try:  # a cluster's workers can then do functions that were made at a prompt
    from cloudpickle import Pickler as _Pickler
except ImportError:
    from pickle import Pickler as _Pickler

NAME = "common.pickle"


class Sender:
    """Packs stretches for workers in other processes.

    Parameters
    ----------
    begin
        What opens a worker; the same for all stretches.
    families
        The families of sources, of which a job has some; the same for all stretches.
    folder
        A folder that all workers reach; None: everything goes with each stretch.
    """

    def __init__(self, begin: Begin, families: Mapping[int, Any], folder: Path | None) -> None:
        self._begin = begin
        self._families = {id(one): number for number, one in families.items()}
        self._place: str | None = None
        if folder is not None:
            self._place = str(folder / NAME)
            data = io.BytesIO()
            _Pickler(data).dump((begin, dict(families)))
            with open(self._place, "xb") as file:
                file.write(data.getbuffer())

    def __call__(self, stretch: Stretch) -> Packed:
        """Pickle a stretch; what all stretches share is sent once."""
        data = io.BytesIO()
        pickler = _Pickler(data)
        if self._place is not None:
            pickler.persistent_id = self._known
            pickler.dump(stretch)
        else:
            pickler.dump((stretch, self._begin))
        return Packed(self._place, data.getvalue(), stretch)

    def _known(self, one: object) -> int | None:
        return self._families.get(id(one))


class Packed:
    """A stretch in pickled form.

    Parameters
    ----------
    place
        The file with what all stretches need; None when it is in the stretch.
    stretch
        The same where it was packed; it is not sent.
    """

    __slots__ = ("data", "place", "stretch")

    def __init__(self, place: str | None, data: bytes, stretch: Stretch | None = None) -> None:
        self.place, self.data, self.stretch = place, data, stretch

    def __reduce__(self) -> tuple[Callable[..., Packed], tuple[str | None, bytes]]:
        return Packed, (self.place, self.data)


def do_packed(packed: Packed) -> list[Any]:
    """Unpack a stretch in a worker process, and do it."""
    if packed.place is None:
        stretch, begin = pickle.loads(packed.data)
        return do_stretch(stretch, begin)
    begin, families = _common(packed.place)
    reader = pickle.Unpickler(io.BytesIO(packed.data))
    reader.persistent_load = partial(_of, families)  # type: ignore[method-assign]
    return do_stretch(reader.load(), begin)


def _of(families: Mapping[int, Any], number: Any) -> Any:
    return families[number]


@lru_cache(1)
def _common(place: str) -> Any:
    try:
        with open(place, "rb") as file:
            return pickle.load(file)
    except FileNotFoundError:
        raise WorkersLost(
            f"a worker does not reach {os.path.dirname(place)}; write to a place that all workers reach"
        ) from None


def is_there(place: str) -> bool:
    """Whether this worker sees a file."""
    return os.path.exists(place)


@dataclass(frozen=True)
class Dispatcher:
    """Sends jobs to the workers, with a bounded number at work."""

    executor: Executor  # threads, processes, or a cluster's executor
    # A folder that all workers reach, where they are other processes and there is one
    folder: Path | None = None
    # whether workers write finished files, which then have the same rows whatever does the work
    in_files: bool = False
    # bytes of sources that may be under work at one time; 0: what the workers can be at, and a little more
    in_flight: int = 0

    @property
    def is_far(self) -> bool:
        """Whether the workers are other processes."""
        return not shares_memory(self.executor)

    @property
    def in_stretches(self) -> bool:
        """Whether jobs go out in stretches."""
        return self.is_far or self.in_files

    @property
    def room(self) -> int:
        """The most bytes of sources that are inspected, or at work in threads, at one time."""
        return self.in_flight or (workers_of(self.executor) + 1) * PIECE

    def results(
        self,
        jobs: Iterable[Task],
        begin: Begin,
        families: Mapping[int, Family],
        total: int,
        flying: Callable[[int], None],
    ) -> Iterator[Any]:
        """Do all jobs, and yield their results in order.

        In the order of the jobs.

        `flying`: is called with the number of tasks that other processes have.
        """
        if not self.in_stretches:
            with begin() as worker:
                yield from ahead(self.executor, partial(guarded, worker=worker), jobs, self.room, _weight)
            return
        workers, size = workers_of(self.executor), STRETCH
        if not self.in_files:
            # enough of them that all workers have some, few enough that a scheduler can keep up
            size = min(max(total // (4 * workers), PIECE), STRETCH if self.folder else 4 * PIECE)
        some = stretches(jobs, size)
        if not self.is_far:
            for done in ahead(self.executor, partial(do_stretch, begin=begin), some):
                yield from done
            return
        send = Sender(begin, families, self.folder)
        room = self.in_flight // size if self.in_flight else 2 * workers + 1
        instead = partial(self._find_out, send)
        for done in ahead(
            self.executor, do_packed, map(send, some), room or 1, instead=instead, flying_now=flying
        ):
            yield from done

    def _find_out(self, send: Sender, sent: Packed) -> list[Failed]:
        """Do the jobs of a stretch source by source, to find out which source kills its worker."""
        whole = _stretch_of(sent)
        numbers, found = whole.sources, list[int]()
        if len(numbers) > 1:

            def note(sent: Packed) -> list[Any]:
                found.extend(_stretch_of(sent).sources)
                return []

            each = (send(whole.of_source(number)) for number in numbers)
            for _ in ahead(self.executor, do_packed, each, instead=note):
                pass
        return [Failed(dict.fromkeys(found or numbers, worker_died()))]


def _stretch_of(sent: Packed) -> Stretch:
    assert sent.stretch
    return sent.stretch


def _weight(job: Task) -> int:
    return sum(piece.bytes for piece in job.pieces)
