"""How the jobs of a run are spread over its workers: one by one to threads, in stretches to other processes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from integrum.engine.failing import Failed, guarded
from integrum.engine.inspecting import worker_died
from integrum.engine.job import Task
from integrum.engine.sending import Packed, Sender, do_packed
from integrum.engine.stretches import STRETCH, Begin, Stretch, do_stretch, stretches
from integrum.engine.variants import Family
from integrum.reading.cutting import PIECE
from integrum.workers.pool import ahead, shares_memory, workers_of


@dataclass(frozen=True)
class Spread:
    """Where the work is done, and how much of it at a time."""

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
        """Bytes of sources that may be under inspection, or under work in threads, at one time."""
        return self.in_flight or (workers_of(self.executor) + 1) * PIECE

    def results(
        self,
        jobs: Iterable[Task],
        begin: Begin,
        families: Mapping[int, Family],
        total: int,
        flying: Callable[[int], None],
    ) -> Iterator[Any]:
        """Do all jobs.

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
        """Find out which of the sources of a stretch their workers do not survive."""
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
