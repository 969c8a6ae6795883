"""Decide about a column from what all sources have in it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import cast

from integrum.surveying.categories import alike_values
from integrum.surveying.decision import Decision, Place
from integrum.surveying.missing import codes_among, first_places, is_absent_word, is_code, is_of_kind
from integrum.surveying.numbers import as_boolean, as_number, serial_days
from integrum.surveying.seen import Evidence, Seen, is_mostly
from integrum.surveying.times import as_time
from integrum.values.arrays import texts
from integrum.values.evidence import CODE, EMPTY, ERROR, TEXT, TRIED, kinds_of_group, looks
from integrum.values.types import TYPES, TypeName
from integrum.values.units import is_unit

# numbers with a letter or two behind them, or before them
_MARK = re.compile(r"\d+(?:\.\d+)?[ -]?([A-Za-z]{1,2})|[A-Za-z]{1,3}[ .-]?\d+(?:\.\d+)?")
# several short numbers in a cell; one that is grouped by thousands is none
_LIST = re.compile(r"\d{1,2}(?: ?(?:[,;|/+]|and) ?\d{1,2})+")
_RANGE = re.compile(r"\d+(?:\.\d+)? ?(?:-|–|to) ?\d+(?:\.\d+)? ?\w{0,6}")
_SEVERAL = ((_LIST, "several values in one cell"), (_RANGE, "ranges of values"))
# this part of the values is no slip
_SOME = 0.05
# by the type whose decisions they are: the kinds of values that are decided about together
_GROUPS = {group: kinds_of_group(group) for group in dict.fromkeys(one.group for one in TRIED)}


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
    >>> decide(Evidence([*seen, Seen(1, 0, TEXT, 1, 9, "broken", "broken")])).bad
    (Place(text='broken', count=1, source=1, row=9),)
    """
    seen = [one for one in evidence.seen if one.kind not in (EMPTY, ERROR)]
    words = first_places(one for one in seen if one.kind == TEXT and is_absent_word(one.detail))
    typed = [one for one in seen if one.kind not in (TEXT, CODE)]
    others = [
        one for one in seen if one.kind == CODE or (one.kind == TEXT and not is_absent_word(one.detail))
    ]
    families = {name: sum(one.count for one in typed if one.kind in kinds) for name, kinds in _GROUPS.items()}
    families = {name: count for name, count in families.items() if count}
    wanted = TYPES[evidence.wanted].group if evidence.wanted else ""
    if wanted == "text" or not families or (others and not wanted and not _mostly(families, others)):
        return _text(seen, words)
    name = wanted if wanted in families else max(families, key=lambda each: families[each])
    days = serial_days(typed, evidence)
    if days and not others:
        return replace(as_time(days.dates, evidence, days.numbers), missing=words)
    stray = [one for one in typed if one.kind not in _GROUPS[name]]
    if name != "number":
        words = (*words, *first_places(one for one in stray if is_code(one)))
        stray = [one for one in stray if not is_code(one)]
        typed = [one for one in typed if one.kind in _GROUPS[name] or not is_code(one)]
    if name == "boolean" or (stray and families.get("boolean") and not wanted):
        made = as_boolean(typed, evidence.ranges)
        if made is not None and not others:
            return replace(made, missing=words)
        if name == "boolean":
            return _text(seen, words)
    if (others or stray) and name != wanted and (made := _no_type(name, seen, others, stray)):
        return replace(made, missing=clear_codes(words))
    typed, bad = [one for one in typed if one.kind in _GROUPS[name]], first_places([*others, *stray])
    if name == "number":
        codes, rest = codes_among(typed, evidence.ranges)
        made = as_number(rest, evidence)
        words = tuple(sorted((*words, *codes), key=lambda one: -one.count))
    elif TYPES[name].is_standard_time:
        made = as_time(typed, evidence)
    else:
        made = Decision(cast(TypeName, name))
    if made.type == "text":
        return replace(made, main=name, missing=clear_codes(words))
    bad = tuple(sorted((*made.bad, *bad), key=lambda one: -one.count))
    return replace(made, bad=bad, missing=words)


def _no_type(
    name: str, seen: Sequence[Seen], others: Sequence[Seen], stray: Sequence[Seen]
) -> Decision | None:
    """The decision that a column is text, as too many values are of another type; None where they are few."""
    if others and not stray and all(one.kind == CODE for one in others):
        first = first_places(others)[0]
        note = f'text: codes such as "{first.text}" would lose their zeros or digits as numbers'
        return Decision(notes=(note,))
    if others and not stray and are_marks(others, sum(one.count for one in seen)):
        first = first_places(others)[0]
        return Decision(notes=(f'text: numbers and codes such as "{first.text}"',))
    is_strict = name == "month" or any(one.kind == CODE for one in others)
    if not is_strict and _are_few([*others, *stray], seen):
        return None
    for pattern, what in _SEVERAL if name == "number" and others and not stray else ():
        if all(pattern.fullmatch(one.detail or one.raw.strip()) for one in others):
            return Decision(notes=(f'text: {what}, such as "{others[0].detail or others[0].raw.strip()}"',))
    values = sum(one.count for one in seen)
    return Decision(main=name, against=first_places([*others, *stray]), values=values)


def _are_few(others: Sequence[Seen], seen: Sequence[Seen]) -> bool:
    """Whether values that are not of the type of all others are so few that they are bad ones."""
    with_value = [one for one in seen if not (one.kind == TEXT and is_absent_word(one.detail))]
    return is_mostly(others, with_value)


def are_marks(others: Sequence[Seen], values: int) -> bool:
    """Whether the texts in a column of numbers are labels such as ``12a``, and not single slips.

    Examples
    --------
    >>> some = [Seen(0, 0, TEXT, 3, 2, "12a", "12a"), Seen(0, 0, TEXT, 2, 5, "12b", "12b")]
    >>> are_marks(some, 40), are_marks(some[:1], 400), are_marks([Seen(0, 0, TEXT, 3, 2, "12m", "12m")], 9)
    (True, False, False)
    """
    texts = {one.detail or one.raw.strip() for one in others if one.kind != CODE}
    count = sum(one.count for one in others)
    if len(texts) < 2 and count < _SOME * values:
        return False
    return all((found := _MARK.fullmatch(text)) and not is_unit(found[1] or "") for text in texts)


def clear_codes(words: Sequence[Place]) -> tuple[Place, ...]:
    """The missing codes that are certain in a text column."""
    return tuple(one for one in words if is_absent_word(one.text, among_numbers=False))


def _text(seen: Sequence[Seen], words: Sequence[Place]) -> Decision:
    """A text column; its values may be categories."""
    counts: dict[str, int] = {}
    for one in seen:
        said = one.detail or one.raw.strip()
        counts[said] = counts.get(said, 0) + one.count
    missing = tuple(one for one in clear_codes(words) if not is_of_kind(one.text, counts))
    if any(one.kind == TEXT and not one.detail for one in seen):  # too many different texts
        return Decision(missing=missing)
    for place in missing:
        counts.pop(place.text, None)
    return Decision(missing=missing, alike=tuple(alike_values(counts)))


def _mostly(families: Mapping[str, int], others: Sequence[Seen]) -> bool:
    """Whether so much has a type that a text column is worth a reason."""
    return sum(families.values()) >= sum(one.count for one in others)


def with_common_codes(decisions: Sequence[Decision], values: Sequence[Sequence[Seen]]) -> list[Decision]:
    """Add missing codes of number and time columns to the text columns beside them."""
    codes = {one.text for made in decisions if made.type != "text" for one in made.missing}
    result = []
    for made, seen in zip(decisions, values, strict=True):
        known = {one.text for one in made.missing}
        more: tuple[Place, ...] = ()
        if made.type == "text" and codes:
            more = first_places(
                one
                for one in seen
                if (one.detail or one.raw) in codes and (one.detail or one.raw) not in known
            )
            others = {text: one.count for one in seen if (text := one.detail or one.raw)}
            more = tuple(one for one in more if not is_of_kind(one.text, others, is_shown=True))
        result.append(replace(made, missing=(*made.missing, *more)) if more else made)
    return result


def decide_texts(values: Sequence[str | None], marks: tuple[str, str] = (".", "")) -> Decision:
    """Decide about the values of an identifier, by the same evidence as about columns.

    Without missing codes: the name of a file says something, or it does not.

    `marks`: the decimal mark and the mark between thousands that its numbers are written with.

    Examples
    --------
    >>> decide_texts(["2021", "2022"]).type, decide_texts(["00417", "00418"]).type, decide_texts(["2024-05-01"]).type
    ('integer', 'text', 'date')
    """
    kinds, at, details, _ = looks(texts(values), marks)
    seen = [
        Seen(0, 0, int(kind), 1, number, value or "", details[place])
        for number, (kind, place, value) in enumerate(zip(kinds, at, values, strict=True))
    ]
    made = decide(Evidence(seen, marks={0: marks}))
    return Decision() if made.missing or made.censored or made.bad else replace(made, unit="")
