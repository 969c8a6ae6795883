"""The survey: every source looked at, all headers side by side, the evidence for each column."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from integrum.columns.expectation import against_expectation, coverage_of
from integrum.columns.header import CLAIMED, IN_PART, LEFT_OUT
from integrum.columns.identifiers import Identified, identify
from integrum.columns.names.known import NameProfile
from integrum.detecting.detect import UNCLEAR_ENCODING, Detected
from integrum.detecting.many import detect_layouts
from integrum.detecting.shape import FEW
from integrum.detecting.sheet import SheetDetected
from integrum.dispatch.engine import Engine
from integrum.dispatch.failing import SourcesFailed, without_failed
from integrum.dispatch.job import Job, Looked, TaskResult
from integrum.intake.admission import same_content
from integrum.intake.inspecting import Inspection
from integrum.intake.intake import Intake, SurveyCache
from integrum.intake.layouts import choose_layouts
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched, match
from integrum.measures.accounts import ACCOUNTS
from integrum.measures.filled import header_entries
from integrum.measures.left_out import JUDGED
from integrum.measures.measure import Context, Measure
from integrum.measures.measures import States
from integrum.measures.repeated_rows import REPEATED_ROWS
from integrum.measures.set_aside import ASIDE
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems.found import Entries, findings
from integrum.problems.problem import Problem
from integrum.reading.head import Head
from integrum.reading.heads import as_marked, read_heads
from integrum.sources.find import Found
from integrum.sources.order import same_as_earlier
from integrum.sources.source import Source
from integrum.surveying.column_looks import EVERY
from integrum.surveying.column_values import ColumnValues
from integrum.surveying.columns import columns_of, mapped, states_of
from integrum.surveying.findings import ColumnSurvey, HeaderVariant
from integrum.surveying.profile import PROFILE
from integrum.surveying.reconciled import ColumnGuess, Reconciled, known_names, reconcile
from integrum.surveying.view import Survey
from integrum.surveying.wide import wide_variants
from integrum.workers.progress import Watch

# this part of the rows below a header that a guess leaves out is worth a warning
_MUCH = 0.1
# a guess that is less sure than that is told of
_TOLD = 0.75
_BY_PERSON = ("decided by a person",)


def survey_found(
    plan: Plan,
    found: Found,
    executor: Executor,
    scratch: Path | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
    decided: Mapping[str, Layout] | None = None,
) -> Survey:
    """Look at all values of all sources.

    Parameters
    ----------
    plan
        Its groups of sources are looked at, and its identifiers tidied as it says.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: one piece for each worker, and one more.
    decided
        The layouts of some sources, by their names, as a person has decided them.
    """
    looked_at, passed = _tables(detect_layouts(plan, found.sources, executor, scratch))
    if decided:
        looked_at = [
            (source, replace(one, layout=decided[source.name], confidence=1.0, evidence=_BY_PERSON, doubt=""))
            if source.name in decided
            else (source, one)
            for source, one in looked_at
        ]
    sources = tuple(source for source, _ in looked_at)
    detected = tuple(one for _, one in looked_at)
    layouts = [source.written(one.layout) for source, one in looked_at]
    several = [number for number, source in enumerate(sources) if plan.group(source.group).layouts]
    chosen = dict(zip(several, choose_layouts(plan, [sources[at] for at in several], executor), strict=True))
    for number, one in chosen.items():
        layouts[number] = one.layout
    alone = [number for number in range(len(sources)) if number not in chosen]
    read = read_heads([sources[at] for at in alone], [layouts[at] for at in alone], executor)
    by_number = {number: one.head for number, one in chosen.items()} | dict(zip(alone, read, strict=True))
    heads = [by_number[number] for number in range(len(sources))]
    layouts = as_marked(layouts, heads)
    detected = tuple(
        replace(one, layout=layouts[number]) if number in chosen else one
        for number, one in enumerate(detected)
    )
    identified = identify(plan, sources, heads, layouts)
    said = (
        *found.problems,
        *(_no_table(source) for source in passed),
        *(each for one in chosen.values() for each in one.problems),
    )
    intake = Intake(plan, sources, layouts, heads, identified, problems=said)

    while True:
        try:
            return _surveyed(intake, found, detected, passed, chosen, executor, watch, in_flight)
        except SourcesFailed as failed:
            intake = without_failed(intake, failed)


def _surveyed(
    intake: Intake,
    found: Found,
    detected: Sequence[Detected],
    passed: Sequence[Source],
    chosen: Collection[int],
    executor: Executor,
    watch: Watch | None,
    in_flight: int,
) -> Survey:
    """Take the sources through the engine, and make the survey of them."""
    plan, sources, heads = intake.plan, tuple(intake.sources), intake.heads
    matched = match(intake, keeps=False)
    engine = Engine(matched, executor, watch, in_flight)
    summaries = engine.summaries
    for number, guess in enumerate(detected):
        if guess.second_column:
            engine.tell(number, _beside(guess))
        if guess.doubt == UNCLEAR_ENCODING:
            engine.tell(number, _unclear(guess))
        elif guess.doubt not in ("", FEW) and 0 < guess.confidence < _TOLD:
            engine.tell(number, _undecided(guess))
    states = States(_MEASURES, Context(matched, summaries, engine.inspections))
    for done in engine.results(_surveying):
        states.take(done)
    states.finish()
    for number, guess in enumerate(detected):
        head = heads[number]
        if guess.confidence and isinstance(head, Head) and number not in chosen:
            engine.tell(number, *_much_left_out(summaries[number], head))
    profiles = states.of(PROFILE)
    known = known_names(matched, summaries, profiles.seen, profiles.sampled)
    made = _reconciled(matched, summaries, known)
    values = ColumnValues(matched, summaries, profiles)
    united, outlying = columns_of(matched, summaries, values, made.columns)
    for number, problem in outlying:
        engine.tell(number, problem)
    variants = list(_variants(matched, summaries))
    for wide in wide_variants(plan.sources, summaries, variants, known):
        engine.tell(_number_of(summaries, wide.variant.sources[0]), wide.problem())
    problems = findings(states.problems(engine.close()))
    canonical = _filled_up(matched, summaries, engine.inspections, profiles.canonical)
    cached = tuple(
        SurveyCache(head, layout, engine.inspections[number], canonical.get(number, {}))
        for number, (head, layout) in enumerate(zip(heads, intake.layouts, strict=True))
    )
    return Survey(
        tuple(plan.sources),
        found.base,
        Entries(summaries),
        Entries(variants),
        Entries(united),
        problems,
        coverage_of(plan, intake.identified),
        _by_name(plan, intake.identified),
        tuple(detected),
        tuple(heads),
        tuple((source.group, source.sheet.name) for source in passed if source.sheet),
        *mapped(matched, summaries),
        tuple(_as_columns(made.guesses, united, plan)),
        tuple(header_entries(matched, summaries)) if plan.columns else (),
        states_of(matched, summaries) if plan.columns else {},
        tuple(known),
        sources,
        cached,
        _books(found, sources),
        values,
    )


def _as_columns(
    guesses: Iterable[ColumnGuess], united: Iterable[ColumnSurvey], plan: Plan
) -> Iterator[ColumnGuess]:
    """Guesses under the names that the survey gives to the columns: the most frequent ones, or those of the plan."""
    own = {column.name for column in plan.columns}
    name_of = {name: column.name for column in united for name, _ in column.spellings}
    for one in guesses:
        column = one.column if one.column in own else name_of.get(one.column, one.column)
        yield replace(one, column=column, header=name_of.get(one.header, one.header))


def _number_of(summaries: Sequence[SourceSummary], name: str) -> int:
    return next(number for number, one in enumerate(summaries) if one.source == name)


_MEASURES: Sequence[Measure[Any, Any, Any]] = (ACCOUNTS, JUDGED, ASIDE, PROFILE, REPEATED_ROWS)


class _SurveyWorker:
    """Looks at rows on a worker."""

    def read(self, job: Job) -> TaskResult:
        """Read some pieces of sources."""
        looked = Looked.of(job)
        return TaskResult([measure.look(looked) for measure in _MEASURES], looked.first, looked.read)


@contextmanager
def _surveying() -> Iterator[_SurveyWorker]:
    """Open a worker for a survey."""
    yield _SurveyWorker()


def names_found(plan: Plan, found: Found, executor: Executor) -> Survey:
    """Look at the names of the sources alone: what is there, what is missing, what is duplicate.

    Without header variants, columns and rows.

    `plan`: its groups of sources are looked at, and its identifiers tidied as it says.
    """
    sources = found.sources
    identified = identify(plan, sources)
    summaries = [
        SourceSummary(one.name, one.path, one.group, one.size, sheet=one.sheet_name) for one in sources
    ]
    files = list(
        {
            (each.path, each.member): replace(each, sheet=None, name=each.file) if each.sheet else each
            for each in sources
        }.values()
    )
    twins = [
        replace(same_content(files[first].name, False), source=files[at].name)
        for at, first in same_as_earlier(files, executor).items()
    ]
    problems = (
        *found.problems,
        *against_expectation(plan, sources, identified),
        *(problem for one in identified for problem in one.problems),
        *twins,
    )
    coverage, by_name = coverage_of(plan, identified), _by_name(plan, identified)
    return Survey(
        tuple(plan.sources),
        found.base,
        Entries(summaries),
        Entries(),
        Entries(),
        Entries(problems),
        coverage,
        by_name,
    )


def _tables(
    looked_at: Sequence[tuple[Source, Detected]],
) -> tuple[list[tuple[Source, Detected]], list[Source]]:
    """Leave out sheets without a table, such as covers, unless others of their name have one."""
    kept = {
        (source.group, source.sheet.name)
        for source, one in looked_at
        if source.sheet and not (isinstance(one, SheetDetected) and not one.is_table)
    }
    good, passed = [], []
    for source, one in looked_at:
        if source.sheet and (source.group, source.sheet.name) not in kept:
            passed.append(source)
        else:
            good.append((source, one))
    return (good, passed) if good else (list(looked_at), [])


def _no_table(source: Source) -> Problem:
    return Problem.of(
        "passed-over",
        source.name,
        message="skipped: probably a cover page or notes",
        hint="if it is a table, name the sheet in the plan",
    )


def _books(found: Found, sources: Sequence[Source]) -> Mapping[tuple[object, ...], object]:
    if not found.books:
        return {}
    from integrum.sources.sheets import books_of

    return books_of(found, sources)


def _unclear(guess: Detected) -> Problem:
    return Problem.of(
        "encoding-unclear",
        message=guess.evidence[0] if guess.evidence else UNCLEAR_ENCODING,
        hint="check the letters in the table; set encoding in the layout",
    )


def _undecided(guess: Detected) -> Problem:
    return Problem.of(
        "layout-undecided",
        message=guess.doubt,
        hint="check header_row and the other keys of the layout; integrum survey FILE shows how each row was read",
    )


def _much_left_out(summary: SourceSummary, head: Head) -> list[Problem]:
    """Say when a guess leaves out more than a tenth of the rows below a header."""
    ledger = summary.ledger
    cut = {
        part.cut_off: count - head.parts.get(part, 0) for part, count in ledger.counts.items() if part.cut_off
    }
    count = sum(cut.values())
    if not summary.is_assembled or count <= _MUCH * (count + ledger.data) or not ledger.data:
        return []
    parts = ", ".join(f"{rows:,} {part}" for part, rows in cut.items() if rows)
    are = "are" if count > 1 else "is"
    return [
        Problem.of(
            "much-left-out",
            message=f"{count:,} of {count + ledger.data:,} rows below the header {are} left out: {parts}",
            hint="integrum survey FILE shows how each row was read",
        )
    ]


def _beside(guess: Detected) -> Problem:
    return Problem.of(
        "second-table",
        "",
        guess.second_table,
        guess.second_column,
        message="another table beside the first one",
        hint="set first_column and last_column in the layout to choose one",
    )


def _by_name(plan: Plan, identified: Sequence[Identified]) -> dict[str, tuple[str | None, ...]]:
    return {name: tuple(one.values.get(name) for one in identified) for name in plan.identifiers}


def _variants(matched: Matched, summaries: Sequence[SourceSummary]) -> Iterator[HeaderVariant]:
    having: dict[int, list[str]] = {}
    for summary in summaries:
        having.setdefault(summary.variant, []).append(summary.source)
    for number, names in sorted(matched.variants.names.items()):
        yield HeaderVariant(number, names, tuple(having[number]))


def _reconciled(
    matched: Matched, summaries: Sequence[SourceSummary], known: Sequence[NameProfile]
) -> Reconciled:
    """Which names belong together; what the plan claims, leaves out or turns into rows is not guessed about."""
    plan = matched.intake.plan
    bounds = [family.bound for family in matched.families.values()]
    cells = [cell for bound in bounds for cell in bound.cells] if plan.columns else []
    claimed = {cell.name: cell.column for cell in cells if cell.state == CLAIMED}
    done = {cell.name for cell in cells if cell.state in (LEFT_OUT, IN_PART)}
    there = {*plan.identifiers} - {column.name for column in plan.columns}
    free = [one for one in known if one.name not in done and one.name not in there]
    return reconcile(free, [one.source for one in summaries], plan, claimed)


def _filled_up(
    matched: Matched,
    summaries: Sequence[SourceSummary],
    inspections: Mapping[int, Inspection],
    canonical: Mapping[int, Mapping[int, frozenset[str]]],
) -> Mapping[int, Mapping[int, frozenset[str]]]:
    """Add sources without values: those without rows, and copies of earlier ones."""
    filled = dict(canonical)
    first_with: dict[tuple[str, int, int], int] = {}
    for number, summary in enumerate(summaries):
        family = matched.family(number)
        twin = first_with.setdefault((summary.content, summary.size, matched.family_of[number]), number)
        if twin != number:
            filled[number] = filled.get(twin, {})
        elif inspections[number].pieces == () and family:
            filled[number] = dict.fromkeys(range(len(family.header.names)), EVERY)
    return filled
