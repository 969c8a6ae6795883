"""Stretches: consecutive jobs that one worker does in a row, so that few tasks carry much work."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from typing import Any

from integrum.engine.failing import Failed, guarded
from integrum.engine.job import Job
from integrum.engine.taken import TakenJob
from integrum.reading.onward import Onward

# bytes of sources in a stretch
STRETCH = 64 << 20

# opens what a worker needs for a stretch, and gives what does a job
Begin = Callable[[], AbstractContextManager[Callable[[Any], Any]]]


@dataclass(frozen=True)
class Stretch:
    """Consecutive jobs; it carries where their pieces lie, not the pieces themselves."""

    jobs: tuple[Job | TakenJob, ...]

    @property
    def sources(self) -> list[int]:
        """The numbers of the sources in it."""
        return sorted({piece.source for job in self.jobs for piece in job.pieces})

    @property
    def bytes(self) -> int:
        """What is read of it."""
        return sum(piece.bytes for job in self.jobs for piece in job.pieces)

    def of_source(self, number: int) -> Stretch:
        """The part of it that is of one source."""
        return Stretch(
            tuple(
                replace(job, pieces=tuple(piece for piece in job.pieces if piece.source == number))  # type: ignore[arg-type]
                for job in self.jobs
                if any(piece.source == number for piece in job.pieces)
            )
        )


def stretches(jobs: Iterable[Job | TakenJob], size: int) -> Iterator[Stretch]:
    """Put jobs together; a source that can only be read from its start stays in one stretch.

    Parameters
    ----------
    jobs
        In order.
    size
        Bytes of sources after which a stretch is full.
    """
    some: list[Job | TakenJob] = []
    held = 0
    for job in jobs:
        if some and held >= size and not _goes_on(some[-1], job):
            yield Stretch(tuple(some))
            some, held = [], 0
        some.append(job)
        held += sum(piece.bytes for piece in job.pieces)
    if some:
        yield Stretch(tuple(some))


def _goes_on(job: Job | TakenJob, after: Job | TakenJob) -> bool:
    """Whether a job goes on in a source that can only be read from its start."""
    if isinstance(job, TakenJob) or isinstance(after, TakenJob):
        return False
    last, first = job.pieces[-1], after.pieces[0]
    return last.source == first.source and not after.reads_ranges(first.source)


def do_stretch(stretch: Stretch, begin: Begin) -> list[Any | Failed]:
    """Do the jobs of a stretch, one after the other, on a worker."""
    with begin() as work, Onward() as onward:
        return [
            guarded(job if isinstance(job, TakenJob) else replace(job, onward=onward), work)
            for job in stretch.jobs
        ]
