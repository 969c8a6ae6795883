"""What fails within one source sets that source aside, even where it was not foreseen.

A run that meets such a source has written some of its rows already. So it begins again, without the source.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from integrum.dispatch.job import Task, TaskResult
from integrum.errors import LedgerError
from integrum.intake.intake import CannotTake, Intake
from integrum.problems.problem import SourceFault, unforeseen

_log = logging.getLogger(__name__)

Result = TypeVar("Result")


class SourcesFailed(Exception):
    """Ends an attempt, with the numbers of the sources that failed and the faults."""

    def __init__(self, faults: Mapping[int, SourceFault]) -> None:
        super().__init__(faults)
        self.faults = faults


@dataclass(frozen=True)
class Failed:
    """The result of a job that failed: the fault of each source, by number."""

    faults: Mapping[int, SourceFault]


def guarded(job: Task, worker: Any) -> TaskResult | Failed:
    """Do a job on a worker. If it fails, find out which of its sources is to blame."""
    try:
        return job.do(worker)
    except CannotTake:
        raise  # no fault of a source
    except Exception as error:
        fault = _as_fault(error)
    if len(job.sources) == 1:
        return Failed(dict.fromkeys(job.sources, fault))
    faults = {}
    for number in job.sources:
        try:
            job.part(number).do(worker)
        except Exception as error:
            faults[number] = _as_fault(error)
    return Failed(faults or dict.fromkeys(job.sources, fault))


def without_failed(intake: Intake, failed: SourcesFailed) -> Intake:
    """The same sources without those that failed, for another attempt.

    Raises LedgerError when a source failed that was left out already.
    """
    if all(isinstance(intake.heads[number], SourceFault) for number in failed.faults):
        raise _will_not_do(intake, failed) from failed
    names = ", ".join(intake.sources[number].name for number in failed.faults)
    _log.info("starting again without what failed: %s", names)
    heads = list(intake.heads)
    for number, fault in failed.faults.items():
        heads[number] = fault
    cached = {number: one for number, one in intake.cached.items() if number not in failed.faults}
    return replace(intake, heads=heads, cached=cached)


def _will_not_do(intake: Intake, failed: SourcesFailed) -> LedgerError:
    number, fault = next(iter(failed.faults.items()))
    return LedgerError(f"{intake.sources[number].name}: {fault.message}; nothing was written")


@contextmanager
def of_source(number: int) -> Iterator[None]:
    """Turn any error inside the block into a fault of one source.

    Raises SourcesFailed when it fails.
    """
    try:
        yield
    except Exception as error:
        raise SourcesFailed({number: _as_fault(error)}) from error


def _as_fault(error: Exception) -> SourceFault:
    return error if isinstance(error, SourceFault) else unforeseen(error)
