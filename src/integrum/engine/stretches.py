"""Stretches: consecutive jobs that one worker does in a row, so that few tasks carry much work."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any

from integrum.engine.failing import Failed, guarded
from integrum.engine.job import Task
from integrum.reading.onward import Onward

# bytes of sources in a stretch
STRETCH = 64 << 20

# opens a worker for a stretch
Begin = Callable[[], AbstractContextManager[Any]]


@dataclass(frozen=True)
class Stretch:
    """Consecutive jobs; it carries where their pieces lie, not the pieces themselves."""

    jobs: tuple[Task, ...]

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
                job.part(number) for job in self.jobs if any(piece.source == number for piece in job.pieces)
            )
        )


def stretches(jobs: Iterable[Task], size: int) -> Iterator[Stretch]:
    """Put jobs together; a source that can only be read from its start stays in one stretch."""
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
    with begin() as worker, Onward() as onward:
        return [guarded(job.reading(onward), worker) for job in stretch.jobs]
