"""How far a run has come, by the bytes of the files whose rows have come back."""

from __future__ import annotations

from collections import deque

from integrum.dispatch.job import Task
from integrum.workers.progress import Progress, Watch


class RunProgress:
    """Follows how far a run has come, and reports it.

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
        """Note which source is read now, and report the progress."""
        self._source = source
        if self._watch:
            done = min(round(self._come), self._total)
            tasks = self._tasks if self._workers else 0
            self._watch(Progress(source, done, self._total, self._rows, tasks, self._workers))

    def flying(self, tasks: int) -> None:
        """Note how many jobs the workers have now."""
        self._tasks = tasks

    def entered(self, number: int, size: int, unpacked: int) -> None:
        """Note that a source comes in, with the size of its file and of its text."""
        if unpacked and size != unpacked:
            self._packed[number] = size / unpacked

    def without(self, size: int) -> None:
        """Note that a source is set aside."""
        self._come += size

    def sent(self, job: Task) -> Task:
        """Note that a job was sent."""
        self._weights.append(sum(piece.bytes * self._packed.get(piece.source, 1.0) for piece in job.pieces))
        return job

    def came(self, rows: int) -> None:
        """Note that a job has come back, with its number of rows."""
        self._come += self._weights.popleft()
        self._rows += rows
        self.at(self._source)

    def end(self) -> None:
        """Note that all jobs have come back."""
        self._come = self._total
        self.at(self._source)
