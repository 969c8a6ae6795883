"""The layout of every source of a survey: as its group says, or guessed."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor

from integrum.detecting.alike import detect_alike
from integrum.detecting.detect import UNREADABLE, Detected
from integrum.detecting.sample import Sample, take_sample
from integrum.layout import Layout
from integrum.plan import Plan
from integrum.problems import SourceFault
from integrum.sources.source import Source
from integrum.workers import ahead

_TOGETHER = 64

__all__ = ["Detected", "detect_layouts"]


def detect_layouts(plan: Plan, sources: Sequence[Source], executor: Executor) -> list[Detected]:
    """Decide about the layout of every source.

    Parameters
    ----------
    plan
        Groups that say something about their layout are taken at their word.
    sources
        The sources.
    executor
        Where the samples are read.

    Returns
    -------
    list of Detected
    """
    said = [group.layout for group in plan.sources]
    guessed = [at for at, source in enumerate(sources) if said[source.group] == Layout()]
    groups = [
        [sources[at] for at in guessed[start : start + _TOGETHER]]
        for start in range(0, len(guessed), _TOGETHER)
    ]
    found = [Detected(said[source.group], evidence=("the plan says so",)) for source in sources]
    results = (one for some in ahead(executor, _detect_some, groups) for one in some)
    for at, one in zip(guessed, results, strict=True):
        found[at] = one
    return found


def _detect_some(sources: Sequence[Source]) -> list[Detected]:
    samples: list[Sample | None] = []
    for source in sources:
        try:
            samples.append(take_sample(source))
        except (OSError, SourceFault):
            samples.append(None)
    found = iter(detect_alike([sample for sample in samples if sample is not None]))
    return [UNREADABLE if sample is None else next(found) for sample in samples]
