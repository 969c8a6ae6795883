"""The pieces of all sources in order, inspected ahead of time; and how far a run has come."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor
from functools import partial

from integrum.dispatch.failing import SourcesFailed, of_source
from integrum.dispatch.job import Task, TaskPiece
from integrum.intake.inspecting import Candidate, Inspection, inspect_some, lost
from integrum.reading.cutting import PIECE
from integrum.reading.pieces import changed
from integrum.workers.pool import ahead
from integrum.workers.progress import Progress, Watch

_FEW = 64
# so many pieces make a job, however small they are: what is found out about each is in memory until it is entered
_TOGETHER = 500
_UNPACKS_TO = 10


def feed(
    candidates: Sequence[Candidate],
    known: Callable[[Candidate], Inspection | None],
    pieces_of: Callable[[Candidate, Inspection], Iterable[TaskPiece]],
    enter: Callable[[Candidate, Inspection], bool],
    executor: Executor,
    room: int,
    output_of: Callable[[int], str],
    at: Callable[[str], None] = lambda _: None,
) -> Iterator[tuple[str, list[TaskPiece]]]:
    """Inspect every source on the workers, and hand out the pieces of those that come in.

    Yields an output, and pieces for it in their order, some 4 MB together. `enter` is called with what the inspection
    of a source found, in order; it says whether the source comes in. What is `known` already is not inspected, and at
    most `room` bytes of sources are under inspection at one time. `at` is told the name of the source at hand.
    """
    waiting = _Waiting()
    for one, seen in _inspected(candidates, known, executor, room):
        at(one.source.name)
        if enter(one, seen):
            for piece in _sound(one, seen, pieces_of):
                yield from waiting.add(output_of(one.number), piece)
                at(one.source.name)
    yield from waiting.rest()


def _inspected(
    candidates: Sequence[Candidate],
    known: Callable[[Candidate], Inspection | None],
    executor: Executor,
    room: int,
) -> Iterator[tuple[Candidate, Inspection]]:
    """Each source with what is known of it, in order."""
    found = {one.number: seen for one in candidates if (seen := known(one)) is not None}
    unknown = [one for one in candidates if one.number not in found]
    inspected = (
        seen
        for some in ahead(
            executor,
            inspect_some,
            _handfuls(unknown),
            room,
            lambda some: sum(map(_weight, some)),
            partial(_one_by_one, executor),
        )
        for seen in some
    )
    for one in candidates:
        yield one, found[one.number] if one.number in found else next(inspected)


def _one_by_one(executor: Executor, some: Sequence[Candidate]) -> list[Inspection]:
    """Find out which of some sources their workers do not survive."""
    if len(some) == 1:
        return [lost(some[0])]
    each = ahead(executor, inspect_some, [[one] for one in some], instead=lambda one: [lost(one[0])])
    return [seen for found in each for seen in found]


class _Waiting:
    """Pieces that wait until there are enough for a job; in all, never more than a few jobs' worth."""

    def __init__(self) -> None:
        self._pieces: dict[str, list[TaskPiece]] = {}
        self._sizes: dict[str, int] = {}

    def add(self, output: str, piece: TaskPiece) -> Iterator[tuple[str, list[TaskPiece]]]:
        size, before = self._sizes.get(output, 0), self._pieces.get(output)
        if before and (
            size + piece.bytes > PIECE or len(before) >= _TOGETHER or before[-1].is_reused != piece.is_reused
        ):
            yield output, self._take(output)
        self._pieces.setdefault(output, []).append(piece)
        self._sizes[output] = self._sizes.get(output, 0) + piece.bytes
        if sum(self._sizes.values()) > 4 * PIECE:
            largest = max(self._sizes, key=lambda each: self._sizes[each])
            yield largest, self._take(largest)

    def rest(self) -> Iterator[tuple[str, list[TaskPiece]]]:
        for output in list(self._pieces):
            yield output, self._take(output)

    def _take(self, output: str) -> list[TaskPiece]:
        self._sizes.pop(output)
        return self._pieces.pop(output)


def _sound(
    one: Candidate,
    seen: Inspection,
    pieces_of: Callable[[Candidate, Inspection], Iterable[TaskPiece]],
) -> Iterator[TaskPiece]:
    """The pieces of a source; read for the second time it must be what it was."""
    pieces = iter(of_source(one.number, lambda: pieces_of(one, seen)))
    is_reused = False
    while (piece := of_source(one.number, lambda: next(pieces, None))) is not None:
        is_reused = piece.is_reused
        yield piece
    if seen.again and not is_reused and one.source.has_changed():
        raise SourcesFailed({one.number: changed()})


def _weight(one: Candidate) -> int:
    """How much there is to read, as far as can be told."""
    return one.source.size * (_UNPACKS_TO if one.source.packing else 1)


def _handfuls(candidates: Sequence[Candidate]) -> Iterator[list[Candidate]]:
    """Small sources together, so that their fixed costs are shared."""
    some: list[Candidate] = []
    size = 0
    for one in candidates:
        if some and (len(some) >= _FEW or size + _weight(one) > PIECE):
            yield some
            some, size = [], 0
        some.append(one)
        size += _weight(one)
    if some:
        yield some


class Advance:
    """Follows a run, and tells of it.

    Parameters
    ----------
    workers
        How many workers there are, where they are other processes; else 0.
    """

    def __init__(self, total: int, workers: int, watch: Watch | None) -> None:
        self._total, self._workers, self._watch = total, workers, watch
        self._come, self._source, self._rows, self._tasks = 0.0, "", 0, 0
        # of jobs on the way: how much they are; how much packed sources are packed
        self._weights = deque[float]()
        self._packed = dict[int, float]()

    def at(self, source: str) -> None:
        """Note the source at hand."""
        self._source = source
        if self._watch:
            done = min(round(self._come), self._total)
            tasks = self._tasks if self._workers else 0
            self._watch(Progress(source, done, self._total, self._rows, tasks, self._workers))

    def flying(self, tasks: int) -> None:
        """Note how many tasks the workers have."""
        self._tasks = tasks

    def entered(self, number: int, size: int, unpacked: int) -> None:
        """Note a source whose rows will come: the bytes of its file, and what is in it."""
        if unpacked and size != unpacked:
            self._packed[number] = size / unpacked

    def without(self, size: int) -> None:
        """Note a source whose rows will not come."""
        self._come += size

    def sent(self, job: Task) -> Task:
        """Note a job that goes out."""
        self._weights.append(sum(piece.bytes * self._packed.get(piece.source, 1.0) for piece in job.pieces))
        return job

    def came(self, rows: int) -> None:
        """Note a job that has come back."""
        self._come += self._weights.popleft()
        self._rows += rows
        self.at(self._source)

    def end(self) -> None:
        """All have come back."""
        self._come = self._total
        self.at(self._source)
