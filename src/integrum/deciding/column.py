"""Decide about one column from what all sources have in it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import cast

from integrum.deciding.categories import alike_values
from integrum.deciding.decision import Decision, Place
from integrum.deciding.missing import codes_among, is_absent_word, is_code
from integrum.deciding.numbers import as_number
from integrum.deciding.seen import Range, Seen
from integrum.deciding.times import as_time
from integrum.deciding.truths import as_boolean
from integrum.values.evidence import CODE, EMPTY, ERROR, TEXT, TRIED, kinds_of_group
from integrum.values.types import TYPES, TypeName

# by the type whose decisions they are: the kinds of values that are decided about together
_GROUPS = {group: kinds_of_group(group) for group in dict.fromkeys(one.group for one in TRIED)}


@dataclass(frozen=True)
class Evidence:
    """All that is known of the values of a column."""

    seen: Sequence[Seen]  # what they look like, by source
    ranges: Sequence[Range] = ()  # the ranges of its numbers, by source
    # by source the decimal mark and the mark between thousands that it is read with
    marks: Mapping[int, tuple[str, str]] | None = None
    unit: str = ""  # the unit that its headers give


def decide(evidence: Evidence) -> Decision:
    """Decide about a column.

    Returns a text where any doubt is left, with the reason.

    Examples
    --------
    >>> from integrum.values.evidence import NUMBER
    >>> seen = [Seen(0, 0, NUMBER, 270, 2, "7.2"), Seen(0, 0, TEXT, 6, 102, "n/a", "n/a")]
    >>> made = decide(Evidence(seen))
    >>> made.type, [one.text for one in made.missing]
    ('number', ['n/a'])
    >>> decide(Evidence([*seen, Seen(1, 0, TEXT, 1, 9, "broken", "broken")])).against
    (Place(text='broken', count=1, source=1, row=9),)
    """
    seen = [one for one in evidence.seen if one.kind not in (EMPTY, ERROR)]
    words = places_of(one for one in seen if one.kind == TEXT and is_absent_word(one.detail))
    typed = [one for one in seen if one.kind not in (TEXT, CODE)]
    others = [
        one for one in seen if one.kind == CODE or (one.kind == TEXT and not is_absent_word(one.detail))
    ]
    families = {name: sum(one.count for one in typed if one.kind in kinds) for name, kinds in _GROUPS.items()}
    families = {name: count for name, count in families.items() if count}
    if not families or (others and not _mostly(families, others)):
        return _text(seen, words)
    name = max(families, key=lambda each: families[each])
    stray = [one for one in typed if one.kind not in _GROUPS[name]]
    if name != "number":
        words = (*words, *places_of(one for one in stray if is_code(one)))
        stray = [one for one in stray if not is_code(one)]
        typed = [one for one in typed if one.kind in _GROUPS[name] or not is_code(one)]
    if name == "boolean" or (stray and families.get("boolean")):
        made = as_boolean(typed, evidence.ranges)
        if made is not None and not others:
            return replace(made, missing=words)
        if name == "boolean":
            return _text(seen, words)
    if others and not stray and all(one.kind == CODE for one in others):
        first = places_of(others)[0]
        note = f'text: codes such as "{first.text}" would lose their zeros or digits as numbers'
        return Decision(missing=clear_codes(words), notes=(note,))
    if others or stray:
        values = sum(one.count for one in seen)
        against = places_of([*others, *stray])
        return Decision(missing=clear_codes(words), main=name, against=against, values=values)
    if name == "number":
        codes, rest = codes_among(typed, evidence.ranges)
        made = as_number(rest, evidence)
        words = tuple(sorted((*words, *codes), key=lambda one: -one.count))
    elif TYPES[name].is_standard_time:
        made = as_time(typed, evidence)
    else:
        made = Decision(cast(TypeName, name))
    if made.type == "text":
        made = replace(made, main=name)
    return replace(made, missing=words if made.type != "text" else clear_codes(words))


def clear_codes(words: Sequence[Place]) -> tuple[Place, ...]:
    """Those that say that there is no value in a text column, too."""
    return tuple(one for one in words if is_absent_word(one.text, among_numbers=False))


def _text(seen: Sequence[Seen], words: Sequence[Place]) -> Decision:
    """A text column; its values may be categories."""
    counts: dict[str, int] = {}
    for one in seen:
        said = one.detail or (one.raw.strip() if one.kind != TEXT else "")
        if not said:
            return Decision(missing=clear_codes(words))  # too many different texts
        counts[said] = counts.get(said, 0) + one.count
    missing = clear_codes(words)
    for place in missing:
        counts.pop(place.text, None)
    return Decision(missing=missing, alike=tuple(alike_values(counts)))


def places_of(seen: Iterable[Seen]) -> tuple[Place, ...]:
    """The texts of some values with their number and their first place, the most frequent first."""
    found: dict[str, Place] = {}
    for one in seen:
        said = one.detail if one.detail and (one.kind == TEXT or is_code(one)) else one.raw
        before = found.get(said)
        place = Place(said, one.count, one.source, one.row)
        found[said] = replace(before, count=before.count + one.count) if before else place
    return tuple(sorted(found.values(), key=lambda one: -one.count))


def _mostly(families: Mapping[str, int], others: Sequence[Seen]) -> bool:
    """Whether so much has a type that a text column is worth a reason."""
    return sum(families.values()) >= sum(one.count for one in others)


def with_common_codes(decisions: Sequence[Decision], values: Sequence[Sequence[Seen]]) -> list[Decision]:
    """What says "no value" in columns of numbers and times says so in the text columns beside them, too."""
    codes = {one.text for made in decisions if made.type != "text" for one in made.missing}
    result = []
    for made, seen in zip(decisions, values, strict=True):
        known = {one.text for one in made.missing}
        more: tuple[Place, ...] = ()
        if made.type == "text" and codes:
            more = places_of(
                one
                for one in seen
                if (one.detail or one.raw) in codes and (one.detail or one.raw) not in known
            )
        result.append(replace(made, missing=(*made.missing, *more)) if more else made)
    return result
