"""Make a table of sources that are ready: again without what fails, and without an earlier run that cannot be used."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from concurrent.futures import Executor
from contextlib import AbstractContextManager
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from integrum.calls.common import code_of
from integrum.calls.preparing import Prepared
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.assembling.run import RunResult
    from integrum.intake.intake import Intake
    from integrum.measures.measure import RecordSink
    from integrum.publish.write import About
    from integrum.reuse.previous_run import PreviousRun
    from integrum.writing.output import Output

_log = logging.getLogger(__name__)

Ended = TypeVar("Ended")


class Outputs(Protocol):
    """Where a run writes while it goes on."""

    @property
    def outputs(self) -> Mapping[str, Output]:
        """The outputs, by name."""

    @property
    def keep(self) -> RecordSink:
        """The sink for rows and cells that are not in the table."""

    @property
    def parts(self) -> Path | None:
        """A folder for files that workers write; None where they write none."""


Somewhere = TypeVar("Somewhere", bound=Outputs)


def make(
    ready: Callable[[PreviousRun | None], Intake],
    previous: PreviousRun | None,
    opened: Callable[[Intake], AbstractContextManager[Somewhere]],
    end: Callable[[RunResult, Somewhere, Intake], Ended],
    pool: Executor,
    watch: Watch | None,
    in_flight: int = 0,
) -> tuple[Ended, str]:
    """Make a table: run, and run again without what fails.

    Returns what `end` gave; and why every source was read again where there was an earlier run, else an empty text.

    Parameters
    ----------
    ready
        Gives the sources; with an earlier run those whose rows are taken over are marked.
    basis
        An earlier run to the same place, where one may be used.
    opened
        Opens the outputs, for each attempt; they are closed at the end of it.
    watch, in_flight
        As for `integrum.assemble`.
    """
    from integrum.assembling.once import EarlierLost, OrdersContrary, check_earlier, check_orders, taken_once
    from integrum.assembling.run import run
    from integrum.dispatch.failing import SourcesFailed, without_failed
    from integrum.intake.intake import CannotTake

    def attempt(intake: Intake) -> Ended:
        while True:
            try:
                return by_orders(intake)
            except OrdersContrary as other:
                intake = replace(intake, contrary={**intake.contrary, **other.found})
            except SourcesFailed as failed:
                intake = without_failed(intake, failed)

    def by_orders(intake: Intake) -> Ended:
        if intake.plan.rules.repeated_rows == "report":
            return once(intake)
        without: frozenset[int] = frozenset()
        while True:
            try:
                return once(taken_once(intake, pool, without))
            except EarlierLost as lost:
                without |= lost.numbers

    def once(intake: Intake) -> Ended:
        with opened(intake) as place:
            made = run(intake, place.outputs, pool, place.keep, watch, in_flight, place.parts)
            check_orders(intake, made.other_orders)
            check_earlier(intake, [(one.is_assembled, one.reason) for one in made.sources])
            return end(made, place, intake)

    why = previous.why_not if previous else ""
    try:
        return attempt(ready(previous)), why
    except CannotTake as reason:
        why = str(reason)
        _log.info("reading every source again: %s", why)
    return attempt(ready(None)), why


def about_run(prepared: Prepared, started: datetime, guarded: bool, **more: Any) -> About:
    """What the record of a run says about it."""
    from integrum.publish.write import About

    plan = prepared.plan
    states = {one.file: one.state for one in prepared.found.sources}
    return About(
        plan,
        prepared.remarks,
        prepared.found.base,
        started,
        guarded,
        code_of(plan),
        drafted=prepared.drafted,
        states=states,
        **more,
    )
