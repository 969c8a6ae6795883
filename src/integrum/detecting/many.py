"""The layouts of many sources: as their groups say, or guessed."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import replace
from functools import partial
from pathlib import Path

from integrum.detecting.alike import detect_alike
from integrum.detecting.detect import UNREADABLE, Detected, detect_sample
from integrum.detecting.sample import Sample, take_sample
from integrum.detecting.sheet import SheetDetected, detect_sheet
from integrum.detecting.together import judged_together
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems import unforeseen
from integrum.sources.foreign import START, kind_of_file
from integrum.sources.source import Source
from integrum.workbooks.places import number
from integrum.workers.pool import ahead

_TOGETHER = 160


def detect_layouts(
    plan: Plan, sources: Sequence[Source], executor: Executor, scratch: Path | None = None
) -> list[tuple[Source, Detected]]:
    """Decide about the layout of every source.

    Returns each source with its guess. Of a sheet only the columns of its table are left in the source.

    `plan`: one with columns is taken at its word, and so are groups that say something about their layout.
    """
    said = [plan.group(source.group).possible_layouts[0] for source in sources]
    several = [bool(plan.group(source.group).layouts) for source in sources]
    guessed = [at for at in range(len(sources)) if not (plan.columns or several[at]) and said[at] == Layout()]
    groups = [
        [sources[at] for at in guessed[start : start + _TOGETHER]]
        for start in range(0, len(guessed), _TOGETHER)
    ]
    found = [
        (source, Detected(layout, evidence=("the plan says so",)))
        for source, layout in zip(sources, said, strict=True)
    ]
    results = (one for some in ahead(executor, partial(detect_some, scratch=scratch), groups) for one in some)
    for at, one in zip(guessed, judged_together(list(results)), strict=True):
        found[at] = one
    return found


def detect_some(sources: Sequence[Source], scratch: Path | None = None) -> list[tuple[Source, Detected]]:
    """Guess the layouts of some sources; one that cannot be read has a confidence of 0, and a run says why."""
    samples: list[Sample | None] = []
    for source in sources:
        try:
            sample = take_sample(source)
            samples.append(None if source.sheet is None and kind_of_file(sample.head[:START]) else sample)
        except Exception:  # a run meets it again, and says what it is
            samples.append(None)
    try:
        return _guessed(list(zip(sources, samples, strict=True)), scratch)
    except Exception as error:
        if len(sources) == 1:
            fault = sources[0].fault or unforeseen(error)
            return [(replace(sources[0], fault=fault), replace(UNREADABLE, evidence=(fault.message,)))]
        return [one for source in sources for one in detect_some([source], scratch)]


def _guessed(
    pairs: Sequence[tuple[Source, Sample | None]], scratch: Path | None
) -> list[tuple[Source, Detected]]:
    files = [sample for source, sample in pairs if sample is not None and not source.sheet]
    sheets = [sample for source, sample in pairs if sample is not None and source.sheet]
    found, of_sheets = iter(detect_alike(files, detect_sample)), iter(detect_alike(sheets, detect_sheet))
    return [
        (source, UNREADABLE)
        if sample is None
        else _sheet(source, next(of_sheets), scratch)
        if source.sheet
        else (source, next(found))
        for source, sample in pairs
    ]


def _sheet(source: Source, detected: SheetDetected, scratch: Path | None) -> tuple[Source, Detected]:
    layout = detected.layout
    if source.sheet is None or not (layout.first_column or layout.last_column or layout.decimal_mark != "."):
        return source, detected
    sheet = replace(
        source.sheet,
        first_column=number(layout.first_column) or 1,
        last_column=number(layout.last_column),
        decimal_mark=layout.decimal_mark,
    )
    from integrum.sources.sheets import reread

    return reread(source, sheet, scratch), detected
