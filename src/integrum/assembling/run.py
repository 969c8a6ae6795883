"""A run: from the found sources to an output, in order, with bounded memory."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace

from integrum.assembling.feed import Watch, feed
from integrum.assembling.inspecting import Look
from integrum.assembling.job import Aside, Digest, Job, Shape, Variant, digest
from integrum.assembling.ledger import Account, about_rows, check_law
from integrum.assembling.output import Output
from integrum.assembling.tally import Tally
from integrum.columns.matching import Match, match
from integrum.plan import Column, Plan
from integrum.problems import Problem, SourceFault
from integrum.reading.head import Head
from integrum.reading.heads import number_variants, read_heads, without_place
from integrum.reading.pieces import Inspected
from integrum.sources.find import Found
from integrum.sources.source import Source
from integrum.workers import ahead


@dataclass(frozen=True)
class Ran:
    """What a run established.

    Attributes
    ----------
    accounts
        One per source, in order.
    problems
        The findings, source by source.
    shape
        The table's columns as they came out.
    rows
        Rows in the table.
    """

    accounts: tuple[Account, ...]
    problems: tuple[Problem, ...]
    shape: Shape
    rows: int


def run(
    plan: Plan,
    found: Found,
    output: Output,
    executor: Executor,
    keep_aside: Callable[[str, Sequence[Aside]], None],
    watch: Watch | None = None,
) -> Ran:
    """Assemble the sources as the plan says.

    Parameters
    ----------
    plan
        The plan.
    found
        Its sources.
    output
        Takes the table.
    executor
        Where the work is done; batches leave in order whichever it is.
    keep_aside
        Is called with the name of a source and cells and rows that were kept out of the table, in order.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.

    Returns
    -------
    Ran

    Raises
    ------
    LedgerError
        When rows in are not rows out.
    """
    return _Run(plan, found.sources, output, executor, keep_aside, watch).go(found.problems)


class _Run:
    def __init__(
        self,
        plan: Plan,
        sources: Sequence[Source],
        output: Output,
        executor: Executor,
        keep_aside: Callable[[str, Sequence[Aside]], None],
        watch: Watch | None,
    ) -> None:
        self.plan, self.sources, self.output, self.executor = plan, sources, output, executor
        self.keep_aside, self.watch = keep_aside, watch
        self.names = dict(enumerate(source.name for source in sources))
        self.accounts = [
            Account(source.name, source.path, source.group + 1, source.size) for source in sources
        ]
        self.problems: dict[int, list[Problem]] = {}
        self.rows = 0

    def go(self, before: Sequence[Problem]) -> Ran:
        heads = read_heads(self.sources, self.executor)
        self.numbers = number_variants(heads)
        matches = {number: match(head.names, self.plan) for number, head in self.numbers.items()}
        kept = _kept_columns(matches.values(), self.plan)
        self.shape = Shape(
            (*self.plan.columns, *kept),
            self.plan.provenance,
            self.plan.rules.bad_values,
            self.output.as_text,
            self.output.pack,
        )
        self.variants = {
            number: Variant(head, _positions(matches[number], kept)) for number, head in self.numbers.items()
        }
        self.tally = Tally({column.name: column for column in self.shape.columns}, self.shape.bad_values)
        self.output.begin(self.shape.schema)
        looks = list(self._looks(heads, matches))
        for done in ahead(self.executor, digest, self._jobs(looks, matches)):
            self._enter(done)
        self._list_whole_sources()
        check_law(self.accounts, self.rows)
        self.output.finish()
        return Ran(tuple(self.accounts), (*before, *self._all_problems()), self.shape, self.rows)

    def _looks(self, heads: Sequence[Head | SourceFault], matches: dict[int, Match]) -> Iterator[Look]:
        variant_of = {head: number for number, head in self.numbers.items()}
        for number, (source, head) in enumerate(zip(self.sources, heads, strict=True)):
            variant, prove = 0, None
            if isinstance(head, Head):
                variant = variant_of[without_place(head)]
                if self.shape.bad_values == "set-source-aside":
                    prove = (self.shape.columns, self.variants[variant].positions)
                self.accounts[number].ledger.header = 1
                self._tell(number, *matches[variant].problems)
            self.accounts[number].variant = variant
            yield Look(source, number, variant, head, prove)

    def _jobs(self, looks: Sequence[Look], matches: dict[int, Match]) -> Iterator[Job]:
        first_with: dict[tuple[str, int], str] = {}

        def enter(seen: Inspected, look: Look) -> bool:
            return self._is_in(seen, look, matches, first_with)

        for pieces in feed(looks, self.executor, enter, self.watch):
            variants = {piece.variant: self.variants[piece.variant] for piece in pieces}
            names = {piece.source: self.names[piece.source] for piece in pieces}
            yield Job(self.shape, tuple(pieces), variants, names)

    def _is_in(
        self, seen: Inspected, look: Look, matches: dict[int, Match], first_with: dict[tuple[str, int], str]
    ) -> bool:
        """Enter what the inspection found; whether the source comes into the table."""
        account = self.accounts[seen.source]
        account.content, account.size = seen.content, seen.size
        account.ledger.rows = seen.rows
        if seen.fault:
            self._tell(seen.source, seen.fault.problem(""))
            account.set_aside(seen.fault.code)
            return False
        if matches[look.variant_number].refused:
            problem = next(one for one in matches[look.variant_number].problems if one.severity == "error")
            account.set_aside(problem.code)
            return False
        twin = first_with.setdefault((seen.content, seen.size), look.source.name)
        if twin != look.source.name:
            keep = self.plan.rules.duplicates == "keep"
            self._tell(
                seen.source,
                Problem(
                    "note" if keep else "warning",
                    "same-content",
                    message=f"the same content as {twin}, byte for byte"
                    + ("; both are in the table" if keep else "; the source was set aside"),
                    hint='say `duplicates = "keep"` in the plan\'s rules to have both',
                ),
            )
            if not keep:
                account.set_aside("same-content")
                return False
        return True

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
        if done.aside:
            self.tally.add(done.aside)
            by_source: dict[int, list[Aside]] = {}
            for one in done.aside:
                by_source.setdefault(one.source, []).append(one)
            for number, entries in by_source.items():
                self.keep_aside(self.names[number], entries)
        self.output.append(done.payload, done.rows)
        self.rows += done.rows

    def _list_whole_sources(self) -> None:
        for number, account in enumerate(self.accounts):
            if account.status != "assembled":
                self.keep_aside(account.source, [Aside(number, None, "", account.reason, "")])

    def _tell(self, number: int, *problems: Problem) -> None:
        named = [replace(problem, source=self.names[number]) for problem in problems]
        self.problems.setdefault(number, []).extend(named)

    def _all_problems(self) -> Iterator[Problem]:
        for number, problem in self.tally.problems(self.names):
            self.problems.setdefault(number, []).append(problem)
        for number, account in enumerate(self.accounts):
            yield from self.problems.get(number, ())
            yield from about_rows(account)


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
