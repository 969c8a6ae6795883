"""The header variants of some sources, and the families in which they can be read together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from integrum.columns.binding import Bound, bind
from integrum.columns.header import Header
from integrum.columns.matching import Sight
from integrum.plan.plan import Plan
from integrum.problems import SourceFault
from integrum.reading.head import Format, Head
from integrum.sources.places import places_of
from integrum.sources.source import Source


@dataclass(frozen=True)
class Family:
    """What sources of one header, one group and one way of writing share; their rows can be read together."""

    header: Header
    format: Format
    bound: Bound


@dataclass(frozen=True)
class Variants:
    """The header variants of the sources of a run."""

    # by number, from 1: the header cells, the variant that most sources have first
    names: dict[int, tuple[str, ...]]
    of_source: tuple[int, ...]  # the number of each source's variant; 0 where it has none


def variants_of(heads: Sequence[Head | SourceFault]) -> Variants:
    """Number the distinct headers, the most frequent first."""
    # most heads share their header
    distinct = {id(head.header): head.header for head in heads if isinstance(head, Head)}
    names_of = {key: tuple(header.named.values()) for key, header in distinct.items()}
    named = [names_of[id(head.header)] if isinstance(head, Head) else None for head in heads]
    counts = Counter(names for names in named if names is not None)
    numbers = {names: number for number, (names, _) in enumerate(counts.most_common(), 1)}
    of_source = tuple(0 if names is None else numbers[names] for names in named)
    return Variants({number: names for names, number in numbers.items()}, of_source)


def families_of(
    plan: Plan,
    sources: Sequence[Source],
    heads: Sequence[Head | SourceFault],
    names: Collection[str] | None = None,
) -> tuple[dict[int, Family], list[int]]:
    """The families of some sources by number, from 1, and the number of each source's; 0 where it has no head.

    `names`: the header cells of all sources of the run; those of these sources when left out.
    """
    numbers: dict[tuple[Header, Format, int, frozenset[str]], int] = {}
    literal = (
        {
            name
            for header in dict.fromkeys(head.header for head in heads if isinstance(head, Head))
            for name in header.names
        }
        if names is None
        else set(names)
    )
    families: dict[int, Family] = {}
    sights: dict[tuple[int, frozenset[str]], Sight] = {}
    of_source = []
    for source, head in zip(sources, heads, strict=True):
        if not isinstance(head, Head):
            of_source.append(0)
            continue
        here = places_of(plan, source)
        key = (head.header, head.format, source.group, here)
        number = numbers.setdefault(key, len(numbers) + 1)
        if number not in families:
            marks = (head.format.decimal_mark, head.format.thousands_mark)
            if (source.group, here) not in sights:
                sights[source.group, here] = Sight(plan, plan.group(source.group), here, literal)
            bound = bind(head.header, sights[source.group, here], marks)
            families[number] = Family(head.header, head.format, bound)
        of_source.append(number)
    return families, of_source
