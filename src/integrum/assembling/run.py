"""A run: from the found sources to its outputs, in order, with bounded memory."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace

from integrum.assembling.job import Aside, Digest, Job, Shape, Variant, digest
from integrum.columns.matching import Match
from integrum.engine.admission import match_form
from integrum.engine.feed import feed
from integrum.engine.inspecting import Look
from integrum.engine.ledger import Account, about_rows, check_law
from integrum.engine.tally import Tally
from integrum.naming.expectation import against_expectation
from integrum.naming.identifiers import Identified
from integrum.plan.model import Column, Plan
from integrum.problems import Problem, SourceFault
from integrum.reading.head import Head
from integrum.reading.heads import number_variants
from integrum.reading.pieces import Inspected
from integrum.sources.source import Source
from integrum.workers import Watch, ahead
from integrum.writing.output import Output

KeepAside = Callable[[str, Sequence[Aside]], None]


@dataclass(frozen=True)
class Target:
    """One output of a run, and where it keeps what was set aside."""

    output: Output
    keep_aside: KeepAside


@dataclass(frozen=True)
class Sought:
    """The sources of a run, and what is known before they are opened.

    Attributes
    ----------
    sources
        In their order.
    heads
        Their heads, or why they have none.
    identified
        Their identifiers.
    target_of
        Which target each goes to.
    problems
        What is to be said of the search.
    """

    sources: Sequence[Source]
    heads: Sequence[Head | SourceFault]
    identified: Sequence[Identified]
    target_of: Sequence[str]
    problems: Sequence[Problem] = ()


@dataclass
class Ran:
    """What a run established about one of its targets.

    Attributes
    ----------
    shape
        The table's columns as they came out.
    accounts
        One per source, in order.
    problems
        The findings, source by source.
    rows
        Rows in the table.
    columns
        The codebook.
    preamble
        Source, row, key and value of all entries above the headers.
    """

    shape: Shape
    accounts: list[Account] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    rows: int = 0
    columns: list[Described] = field(default_factory=list)
    preamble: list[tuple[str, int, str, str]] = field(default_factory=list)


@dataclass
class Described:
    """One column in the codebook: its type and unit, and where it comes from."""

    name: str
    type: str
    unit: str
    filled: int = 0
    sources: int = 0
    headers: dict[str, int] = field(default_factory=dict)


def run(
    plan: Plan,
    sought: Sought,
    targets: Mapping[str, Target],
    executor: Executor,
    watch: Watch | None = None,
) -> dict[str, Ran]:
    """Assemble the sources as the plan says.

    Parameters
    ----------
    plan
        The plan.
    sought
        Its sources.
    targets
        The outputs; all take text, or all take Arrow types.
    executor
        Where the work is done; batches leave in order whichever it is.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.

    Returns
    -------
    dict
        What was established, by target.

    Raises
    ------
    LedgerError
        When rows in are not rows out.
    """
    return _Run(plan, sought, targets, executor, watch).go()


class _Run:
    def __init__(
        self,
        plan: Plan,
        sought: Sought,
        targets: Mapping[str, Target],
        executor: Executor,
        watch: Watch | None,
    ) -> None:
        self.plan, self.sought, self.targets = plan, sought, targets
        self.executor, self.watch = executor, watch
        self.sources = sought.sources
        self.names = dict(enumerate(source.name for source in self.sources))
        self.plan = plan = plan.for_sheets(any(source.sheet for source in self.sources))
        self.sheets = {
            number: source.sheet.name if source.sheet else None for number, source in enumerate(self.sources)
        }
        self.labels = {
            number: _label(source, plan.sources[source.group].labels)
            for number, source in enumerate(self.sources)
        }
        self.accounts = [
            Account(
                source.name,
                source.path,
                source.group + 1,
                source.size,
                label=self.labels[number],
                sheet=self.sheets[number] or "",
            )
            for number, source in enumerate(self.sources)
        ]
        self.problems: dict[int, list[Problem]] = {}
        self.rows = dict.fromkeys(targets, 0)
        self.first_with: dict[tuple[str, int], str] = {}

    def go(self) -> dict[str, Ran]:
        heads = self.sought.heads
        numbered = number_variants(heads)
        # sources of one header variant can differ in the columns that their group fills
        self.matches = {
            (number, source.group): match_form(
                numbered.forms[number], self.plan, self.plan.sources[source.group].identifiers
            )
            for number, source in zip(numbered.of_source, self.sources, strict=True)
            if number
        }
        kept = _kept_columns(self.matches.values(), self.plan)
        first = next(iter(self.targets.values())).output
        self.shape = Shape(
            (*self.plan.table_columns, *kept),
            self.plan.provenance,
            self.plan.rules.bad_values,
            first.as_text,
            first.pack,
        )
        keys = {key: number for number, key in enumerate(self.matches, 1)}
        self.variants = {
            keys[key]: Variant(numbered.forms[key[0]], _positions(self.matches[key], kept)) for key in keys
        }
        self.tally = Tally({column.name: column for column in self.shape.columns}, self.shape.bad_values)
        self.filled = {key: [0] * len(self.shape.columns) for key in self.targets}
        for target in self.targets.values():
            target.output.begin(self.shape.schema)
        looks = []
        for number, (variant, head) in enumerate(zip(numbered.of_source, heads, strict=True)):
            key = (variant, self.sources[number].group)
            looks.append(self._look(number, variant, keys.get(key, 0), head))
        self.matched_of = [look.variant_number for look in looks]
        for done in ahead(self.executor, digest, self._jobs(looks)):
            self._enter(done)
        return self._finish()

    def _look(self, number: int, variant: int, matched: int, head: Head | SourceFault) -> Look:
        source, prove = self.sources[number], None
        self.accounts[number].variant = variant
        self._tell(number, *self.sought.identified[number].problems)
        if isinstance(head, Head):
            if self.shape.bad_values == "set-source-aside":
                prove = (self.shape.columns, self.variants[matched].positions)
            for part, count in head.parts.items():
                setattr(self.accounts[number].ledger, part, count)
            self._tell(number, *self.matches[variant, source.group].problems)
        layout = source.written(self.plan.sources[source.group].layout)
        return Look(source, number, matched, head, layout, prove)

    def _jobs(self, looks: Sequence[Look]) -> Iterator[Job]:
        target_of = self.sought.target_of.__getitem__
        for target, pieces in feed(looks, self.executor, self._comes_in, self.watch, target_of):
            numbers = {piece.source for piece in pieces}
            yield Job(
                self.shape,
                tuple(pieces),
                {piece.variant: self.variants[piece.variant] for piece in pieces},
                {number: self.labels[number] for number in numbers},
                {number: self.sheets[number] for number in numbers},
                {number: self.sought.identified[number].values for number in numbers},
                target,
            )

    def _comes_in(self, seen: Inspected, look: Look) -> bool:
        """Enter what the inspection found; whether the source comes into the table."""
        account = self.accounts[seen.source]
        account.content, account.size = seen.content, seen.size
        account.ledger.rows = seen.rows
        account.ledger.comment += seen.comment
        account.ledger.footer += seen.footer
        reason = self._why_not(seen, look)
        if reason:
            account.set_aside(reason)
        return not reason

    def _why_not(self, seen: Inspected, look: Look) -> str:
        """The code of the problem for which a source is set aside, or ``""``."""
        if seen.fault:
            self._tell(seen.source, seen.fault.problem(""))
            return seen.fault.code
        if self.sought.identified[seen.source].refused:
            return self.sought.identified[seen.source].problems[0].code
        matched = self.matches[self.accounts[seen.source].variant, look.source.group]
        if matched.refused:
            return next(one.code for one in matched.problems if one.severity == "error")
        twin = self.first_with.setdefault((seen.content, seen.size), look.source.name)
        if twin == look.source.name:
            return ""
        keep = self.plan.rules.duplicates == "keep"
        self._tell(seen.source, same_content(twin, keep, look.source.sheet is not None))
        return "" if keep else "same-content"

    def _enter(self, done: Digest) -> None:
        for part, counts in (
            ("data", done.data),
            ("blank", done.blank),
            ("repeated_header", done.repeated),
            ("set_aside", done.aside_rows),
        ):
            for number, count in counts.items():
                ledger = self.accounts[number].ledger
                setattr(ledger, part, getattr(ledger, part) + count)
        target = self.targets[done.output]
        if done.aside:
            self.tally.add(done.aside)
            by_source: dict[int, list[Aside]] = {}
            for one in done.aside:
                by_source.setdefault(one.source, []).append(one)
            for number, entries in by_source.items():
                target.keep_aside(self.names[number], entries)
        target.output.append(done.payload, done.rows)
        self.rows[done.output] += done.rows
        filled = self.filled[done.output]
        for at, count in enumerate(done.filled):
            filled[at] += count

    def _tell(self, number: int, *problems: Problem) -> None:
        named = [replace(problem, source=self.names[number]) for problem in problems]
        self.problems.setdefault(number, []).extend(named)

    def _finish(self) -> dict[str, Ran]:
        """Close the outputs, check the law, and sort what was found by target."""
        for number, problem in self.tally.problems(self.names):
            self.problems.setdefault(number, []).append(problem)
        ran = {key: Ran(self.shape, rows=self.rows[key]) for key in self.targets}
        general = [
            *self.sought.problems,
            *against_expectation(self.plan, self.sources, self.sought.identified),
        ]
        for one in ran.values():
            one.problems += general
        for number, account in enumerate(self.accounts):
            key = self.sought.target_of[number]
            ran[key].accounts.append(account)
            head = self.sought.heads[number]
            if isinstance(head, Head):
                ran[key].preamble += [(account.source, one.row, one.key, one.value) for one in head.preamble]
            ran[key].problems += [*self.problems.get(number, ()), *about_rows(account)]
            if account.status != "assembled":
                self.targets[key].keep_aside(account.source, [Aside(number, None, "", account.reason, "")])
        for key, one in ran.items():
            one.columns = self._described(key)
        for key, target in self.targets.items():
            check_law(ran[key].accounts, ran[key].rows)
            target.output.finish()
        return ran

    def _described(self, key: str) -> list[Described]:
        """The codebook of one target."""
        columns = [
            Described(column.name, column.type, column.unit, filled)
            for column, filled in zip(self.shape.columns, self.filled[key], strict=True)
        ]
        for number, account in enumerate(self.accounts):
            head = self.sought.heads[number]
            if (
                self.sought.target_of[number] != key
                or account.status != "assembled"
                or not isinstance(head, Head)
            ):
                continue
            identifiers = self.sought.identified[number].values
            matched = self.matched_of[number]
            for column, at in zip(columns, self.variants[matched].positions, strict=True):
                if column.name in identifiers:
                    column.sources += 1
                elif at is not None:
                    column.sources += 1
                    name = head.form.names[at]
                    column.headers[name] = column.headers.get(name, 0) + 1
                    column.unit = column.unit or (head.form.units[at] if at < len(head.form.units) else "")
        return columns


def _label(source: Source, labels: Mapping[str, str]) -> str:
    return labels.get(source.name, labels.get(source.file, source.file))


def same_content(twin: str, keep: bool, is_sheet: bool = False) -> Problem:
    """The finding that a source has the same content as an earlier one."""
    return Problem(
        "note" if keep else "warning",
        "same-content",
        message=f"the same content as {twin}, {'cell for cell' if is_sheet else 'byte for byte'}"
        + ("; both are in the table" if keep else "; the later one is set aside"),
        hint='say `duplicates = "keep"` in the plan\'s rules to have both',
    )


def _kept_columns(matches: Iterable[Match], plan: Plan) -> tuple[Column, ...]:
    if plan.rules.unlisted != "keep":
        return ()
    names = dict.fromkeys(name for one in matches for name, _ in one.unlisted)
    taken = set(plan.table_names)
    return tuple(Column(_free_name(name, taken), also=[name]) for name in names)


def _free_name(name: str, taken: set[str]) -> str:
    free, number = name, 2
    while free in taken:
        free, number = f"{name} ({number})", number + 1
    taken.add(free)
    return free


def _positions(one: Match, kept: Sequence[Column]) -> tuple[int | None, ...]:
    unlisted = dict(one.unlisted)
    return (*one.positions, *(unlisted.get(column.also[0]) for column in kept))
