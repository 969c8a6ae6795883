"""Sources on a page: their paths, and what became of each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from integrum.columns.identifiers import propose
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Family
from integrum.pages.ends import LinesOf, ends_of, left_out_views, size_of, source_view
from integrum.pages.grid import LeftOutView, Line, PathPart, PathsView, SourceView, VariantView
from integrum.pages.samples import Samples, take_samples
from integrum.plan.column import Column
from integrum.plan.layout import Layout
from integrum.plan.scheme import Schemes
from integrum.plan.sources import Sources
from integrum.problems.problem import SourceFault, counted
from integrum.reading.head import Head
from integrum.sources.source import Source
from integrum.sources.suffixes import unpacked_name

# the most letters of lines on a page, and the most sources that are read for it; then only for columns without values
ROOM, READ, MOST_READ = 1_000_000, 80, 600
# of each variant this many sources are shown, and of each part that is left out this many rows
_OF_A_VARIANT, _ROWS_OF_A_PART = 12, 12
_SHORT = 120
_ENOUGH = 2
_SHOWN = 6


@dataclass
class Shown:
    """What was read of some sources."""

    variants: list[VariantView] = field(default_factory=list)
    samples: dict[str, Samples] = field(default_factory=dict)
    left_out: list[LeftOutView] = field(default_factory=list)


@dataclass(frozen=True)
class Looked:
    """What is known of the sources that are there."""

    sources: Sequence[Source]
    layouts: Sequence[Layout]
    heads: Sequence[Head | SourceFault]
    summaries: Sequence[SourceSummary]
    families: Mapping[int, Family]
    family_of: Sequence[int]
    variant_of: Sequence[int]
    # by source: how its layout is known
    evidence: Callable[[int], Sequence[str]] = lambda _: ()
    # by variant how many sources have it, where these are only some of them
    counts: Mapping[int, int] = field(default_factory=dict)


def show_sources(
    looked: Looked, columns: Sequence[Column], wanted: Iterable[int], differences: Mapping[int, str]
) -> Shown:
    """Read the sources that a page shows.

    Parameters
    ----------
    columns
        The columns of the table.
    wanted
        Sources that should be shown, such as those of questions and problems.
    differences
        By variant what tells it from the first one, in words.
    """
    members: dict[int, list[int]] = {}
    for number, variant in enumerate(looked.variant_of):
        members.setdefault(variant, []).append(number)
    order = _order(members, set(wanted))
    made = Shown()
    views: dict[int, list[SourceView]] = {}
    rows: dict[str, list[tuple[str, Line]]] = {}
    room = ROOM
    longest = 240 if len(members) < READ else _SHORT
    for count, number in enumerate(order):
        if count >= READ and not _has_news(looked, number, made.samples):
            continue
        if count >= MOST_READ:
            break
        source, summary, layout = looked.sources[number], looked.summaries[number], looked.layouts[number]
        ends = ends_of(source, layout, looked.heads[number], summary.ledger.rows)
        family = looked.families.get(looked.family_of[number])
        if family is not None:
            take_samples(made.samples, summary.source, ends, family, columns)
        variant = looked.variant_of[number]
        if room <= 0 or len(views.get(variant, ())) >= _OF_A_VARIANT:
            continue
        lines = LinesOf(source, layout)
        view = source_view(
            summary.source,
            number,
            variant,
            ledger_words(summary),
            ends,
            lines,
            looked.evidence(number),
            longest,
        )
        room -= size_of(view)
        views.setdefault(variant, []).append(view)
        for row in [*view.lines, *(lines.line(row, longest) for row in ends.left_out[:_ROWS_OF_A_PART])]:
            if isinstance(row, Line) and row.proof:
                some = rows.setdefault(row.part, [])
                if len(some) < _ROWS_OF_A_PART and (summary.source, row) not in some:
                    some.append((summary.source, row))
    for variant in sorted(members, key=lambda one: (one == 0, one)):
        there = views.get(variant, [])
        head = next((one for at in members[variant] if isinstance(one := looked.heads[at], Head)), None)
        made.variants.append(
            VariantView(
                variant,
                looked.counts.get(variant, len(members[variant])),
                len(head.header.named) if head else 0,
                differences.get(variant, ""),
                tuple(sorted(there, key=lambda one: one.number)),
                looked.counts.get(variant, len(members[variant])) - len(there),
            )
        )
    made.left_out = left_out_views(looked.summaries, rows)
    return made


def _order(members: Mapping[int, Sequence[int]], wanted: set[int]) -> list[int]:
    """The first source of each variant, then those that are wanted, the last of each, and those between."""
    firsts = [some[0] for _, some in sorted(members.items(), key=lambda one: (one[0] == 0, one[0]))]
    lasts = [some[-1] for _, some in sorted(members.items()) if len(some) > 1]
    rest = [
        number
        for at in range(1, _OF_A_VARIANT)
        for _, some in sorted(members.items())
        for number in some[at : at + 1]
    ]
    return list(dict.fromkeys([*firsts, *sorted(wanted), *lasts, *rest]))


def _has_news(looked: Looked, number: int, samples: Mapping[str, Samples]) -> bool:
    """Whether a source has a column of which more values have to be shown."""
    family = looked.families.get(looked.family_of[number])
    return family is not None and any(
        one.positions and (one.column not in samples or samples[one.column].sources < _ENOUGH)
        for one in family.bound.bindings
    )


def ledger_words(summary: SourceSummary) -> str:
    """What the rows of a source are."""
    there = [f"{count:,} {part.words}" for part, count in summary.ledger.counts.items() if count]
    return f"{counted(summary.ledger.rows, 'row')}: {', '.join(there)}" if there else "no rows were read"


def in_words(count: int, of: int) -> str:
    """How many sources have something."""
    return "in every source" if count == of else f"in {count:,} of {counted(of, 'source')}"


def paths_of(group: Sources, names: Sequence[str]) -> PathsView | None:
    """The names of a group as its scheme reads them, or the one that they suggest; None where they suggest none.

    Examples
    --------
    >>> seen = paths_of(Sources("loggers", ids="{lake}_{year}.csv"), ["amb/amb_2021.csv", "odd.csv"])
    >>> [(one.text, one.name) for one in seen.paths[0]], seen.others
    ([('amb/', ''), ('amb', 'lake'), ('_', ''), ('2021', 'year'), ('.csv', '')], ('odd.csv',))
    """
    names = list(dict.fromkeys(map(unpacked_name, names)))
    used = group.schemes
    proposal = None if used else propose(names)
    if not used and (proposal is None or len(proposal.others) > proposal.fits):
        return None
    texts = used or ((proposal.scheme,) if proposal else ())
    schemes = Schemes(texts)
    fitting, others, found = [], [], {}
    for name in names:
        values = schemes.fit(name).values
        if values is None:
            others.append(name)
            continue
        fitting.append(name)
        found[name] = values
    # the first, the last, and those between
    step = max(len(fitting) // _SHOWN, 1)
    shown = list(dict.fromkeys([*fitting[::step][: _SHOWN - 1], *fitting[-1:]]))
    return PathsView(
        texts[0] if len(texts) == 1 else " or ".join(texts),
        bool(used),
        tuple(dict.fromkeys(name for one in found.values() for name in one)),
        tuple(_marked(name, {key: text or "" for key, text in found[name].items()}) for name in shown),
        tuple(others[:_SHOWN]),
        len(fitting),
    )


def _marked(path: str, values: dict[str, str]) -> tuple[PathPart, ...]:
    """Split a path into stretches, with the identifier that each gives."""
    parts: list[PathPart] = []
    last = path.rfind("/") + 1
    start = last if all(text in path[last:] for text in values.values()) else 0
    at, before = start, 0
    for name, text in values.items():
        place = path.find(text, at) if text else -1
        if place < 0:
            continue
        if place > before:
            parts.append(PathPart(path[before:place]))
        parts.append(PathPart(text, name))
        at = before = place + len(text)
    if before < len(path):
        parts.append(PathPart(path[before:]))
    return tuple(parts)
