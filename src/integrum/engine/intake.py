"""What goes into the engine: sources with their plan, their heads, and what a survey has learned of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from integrum.engine.inspecting import Inspection
from integrum.engine.reuse import NoReuse, Reuse
from integrum.naming.identifiers import Identified
from integrum.plan.layout import Layout
from integrum.plan.model import Plan
from integrum.problems import Problem, SourceFault
from integrum.reading.head import Head
from integrum.sources.source import Source


@dataclass(frozen=True)
class Learned:
    """What a survey has learned of a source; a run need not find it out again while the file is unchanged.

    Attributes
    ----------
    head, layout, inspection
        Its head, its layout, and what its inspection found.
    canonical
        By position: the types in whose canonical form all values of a column are.
    """

    head: Head | SourceFault
    layout: Layout
    inspection: Inspection
    canonical: Mapping[int, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True)
class Intake:
    """The sources that go through the engine, and what is known before their rows are read.

    Attributes
    ----------
    plan
        The plan.
    sources, layouts
        The sources in their order, and the layout of each.
    heads
        Their heads, or why they have none.
    identified
        Their identifiers.
    outputs
        Which output each goes to.
    problems
        What is to be said of the search.
    learned
        By the number of a source, what a survey has learned of it.
    stop_at_first
        Whether to stop at the first source that has to be set aside.
    reuse
        Sources whose rows are taken over from an earlier output.
    """

    plan: Plan
    sources: Sequence[Source]
    layouts: Sequence[Layout]
    heads: Sequence[Head | SourceFault]
    identified: Sequence[Identified]
    outputs: Sequence[str] = ()
    problems: Sequence[Problem] = ()
    learned: Mapping[int, Learned] = field(default_factory=dict)
    stop_at_first: bool = False
    reuse: Reuse = field(default_factory=NoReuse)
