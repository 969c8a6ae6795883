"""Carry on: what fails within one source sets that source aside, even where it was not foreseen.

A run that meets such a source has written some of its rows already. So it begins again, without the source.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from integrum.dispatch.job import Done, Task
from integrum.errors import LedgerError
from integrum.intake.intake import CannotTake, Intake
from integrum.problems.problem import SourceFault, unforeseen

_log = logging.getLogger(__name__)

Result = TypeVar("Result")


class SourcesFailed(Exception):
    """Ends an attempt; the numbers of the sources that failed, and why."""

    def __init__(self, faults: Mapping[int, SourceFault]) -> None:
        super().__init__(faults)
        self.faults = faults


@dataclass(frozen=True)
class Failed:
    """What a worker gives back instead of the result of a job: by number why a source failed."""

    faults: Mapping[int, SourceFault]


def guarded(job: Task, worker: Any) -> Done | Failed:
    """Do a job on a worker; where that fails, find out which of its sources is to blame."""
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


def carry_on(intake: Intake, attempt: Callable[[Intake], Result]) -> Result:
    """Make an attempt, and make it again without the sources that failed in it.

    Raises LedgerError when a source fails even where it is left out.

    `attempt`: takes the sources through an engine; is ended by `SourcesFailed`.
    """
    while True:
        try:
            return attempt(intake)
        except SourcesFailed as failed:
            if all(isinstance(intake.heads[number], SourceFault) for number in failed.faults):
                raise _will_not_do(intake, failed) from failed  # it was left out already, and fails again
            names = ", ".join(intake.sources[number].name for number in failed.faults)
            _log.info("starting again without what failed: %s", names)
            heads = list(intake.heads)
            for number, fault in failed.faults.items():
                heads[number] = fault
            learned = {number: one for number, one in intake.learned.items() if number not in failed.faults}
            intake = replace(intake, heads=heads, learned=learned)


def _will_not_do(intake: Intake, failed: SourcesFailed) -> LedgerError:
    number, fault = next(iter(failed.faults.items()))
    return LedgerError(f"{intake.sources[number].name}: {fault.message}; nothing was written")


def of_source(number: int, work: Callable[[], Result]) -> Result:
    """Do something that concerns one source outside of a job.

    Raises SourcesFailed when it fails.
    """
    try:
        return work()
    except Exception as error:
        raise SourcesFailed({number: _as_fault(error)}) from error


def _as_fault(error: Exception) -> SourceFault:
    return error if isinstance(error, SourceFault) else unforeseen(error)
