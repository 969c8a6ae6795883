"""What goes into the engine: sources with their plan, their heads, and what a survey has learned of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from integrum.arrow.arrays import Ints
from integrum.engine.inspecting import Inspection
from integrum.engine.reuse import NoReuse, Reuse
from integrum.naming.identifiers import Identified
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems import Problem, SourceFault
from integrum.reading.head import Head
from integrum.sources.source import Source


@dataclass(frozen=True)
class Learned:
    """What a survey has learned of a source; a run need not find it out again while the file is unchanged."""

    # its head, its layout, and what its inspection found
    head: Head | SourceFault
    layout: Layout
    inspection: Inspection
    # by position: the types in whose canonical form all values of a column are
    canonical: Mapping[int, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True)
class Intake:
    """The sources that go through the engine, and what is known before their rows are read."""

    plan: Plan
    # the sources in their order, and the layout of each
    sources: Sequence[Source]
    layouts: Sequence[Layout]
    heads: Sequence[Head | SourceFault]  # their heads, or why they have none
    identified: Sequence[Identified]
    outputs: Sequence[str] = ()
    problems: Sequence[Problem] = ()  # what is to be said of the search
    # by the number of a source, what a survey has learned of it
    learned: Mapping[int, Learned] = field(default_factory=dict)
    drafted: bool = False  # whether its plan was drafted for this run
    stop_at_first: bool = False  # whether to stop at the first source that has to be set aside
    reuse: Reuse = field(default_factory=NoReuse)  # sources whose rows are taken over from an earlier output
    # by the number of a source: the order of day and month that all dates of a column have there, against the plan
    contrary: Mapping[int, Mapping[str, str]] = field(default_factory=dict)
    # by the number of a source: its rows that are in earlier sources too, where they are taken once; and in which
    again: Mapping[int, Ints] = field(default_factory=dict)
    earlier: Mapping[int, frozenset[int]] = field(default_factory=dict)
