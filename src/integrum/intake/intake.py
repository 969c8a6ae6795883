"""What goes into a run: sources, heads, layouts; and what it takes over from the run before."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NoReturn, Protocol

import pyarrow as pa

from integrum.columns.identifiers import Identified
from integrum.intake.inspecting import Inspection
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems.problem import Problem, SourceFault
from integrum.reading.head import Head
from integrum.sources.source import Source
from integrum.values.arrays import Ints


class CannotTake(Exception):
    """Ends an attempt to take rows over from an earlier output; its text says why."""


class Reuse(Protocol):
    """The sources whose rows are taken over from an earlier output."""

    @property
    def sources(self) -> Collection[int]:
        """The numbers of these sources."""

    @property
    def whole(self) -> Any:
        """The earlier output, if all of it is taken over as it is; else None."""

    def check(self, schema: pa.Schema) -> None:
        """Make sure that the table has the same columns. Raises CannotTake otherwise."""

    def inspection(self, number: int) -> Inspection:
        """The inspection of a source in the earlier run."""

    def pieces(self, number: int) -> Sequence[Any]:
        """Where the rows of a source lie in the earlier output."""

    def task(self, pieces: Sequence[Any], output: str) -> Any:
        """The job that copies some pieces."""

    def said_above(self, number: int) -> Sequence[Problem]:
        """The problems that the earlier run had with the lines above the rows."""


class NoReuse:
    """No rows are taken over."""

    sources: Collection[int] = ()
    whole: Any = None

    def check(self, schema: pa.Schema) -> None:
        """Nothing to check."""

    def inspection(self, number: int) -> NoReturn:
        """Never called."""
        raise KeyError(number)

    def task(self, pieces: Sequence[Any], output: str) -> NoReturn:
        """Never called."""
        raise KeyError(output, pieces)

    pieces = said_above = inspection


@dataclass(frozen=True)
class SurveyCache:
    """What a survey knows of a source. A run uses it as long as the file is unchanged."""

    # its head, its layout, and what its inspection found
    head: Head | SourceFault
    layout: Layout
    inspection: Inspection
    # by position: the types in whose canonical form all values of a column are
    canonical: Mapping[int, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True)
class Intake:
    """The sources of a run, and what is known of them before their rows are read."""

    plan: Plan
    # the sources in their order, and the layout of each
    sources: Sequence[Source]
    layouts: Sequence[Layout]
    heads: Sequence[Head | SourceFault]  # their heads, or why they have none
    identified: Sequence[Identified]
    outputs: Sequence[str] = ()
    problems: Sequence[Problem] = ()  # what is to be said of the search
    # by the number of a source, what a survey has learned of it
    cached: Mapping[int, SurveyCache] = field(default_factory=dict)
    drafted: bool = False  # whether its plan was drafted for this run
    stop_at_first: bool = False  # whether to stop at the first source that has to be set aside
    reuse: Reuse = field(default_factory=NoReuse)  # sources whose rows are taken over from an earlier output
    # by the number of a source: the order of day and month that all dates of a column have there, against the plan
    contrary: Mapping[int, Mapping[str, str]] = field(default_factory=dict)
    # by the number of a source: its rows that are in earlier sources too, where they are taken once; and in which
    again: Mapping[int, Ints] = field(default_factory=dict)
    earlier: Mapping[int, frozenset[int]] = field(default_factory=dict)
