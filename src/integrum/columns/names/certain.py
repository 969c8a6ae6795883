"""Which names are certainly one column: they differ only in how they are written."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import reduce

from integrum.columns.names.known import NameProfile
from integrum.columns.names.words import split_unit, without_accents
from integrum.plan.fields import loosened, without_serial
from integrum.values.units import conversion_to, same_unit
from integrum.values.written.numbers import CURRENCIES

_SHORT = 4
# medians further apart than this are not the same quantity in the same unit
_FAR = 3.0
_NO_PLURAL = ("ss", "us", "is", "as", "os")


def certain_columns(known: Sequence[NameProfile]) -> list[list[NameProfile]]:
    """Put names together that are certainly one column.

    They are equal but for case, spaces and punctuation, or moreover but for accents, a unit in brackets or behind an
    underscore, the serial number of an instrument, and singular and plural. Then their values have to be of one kind, and
    units that differ have to be of one quantity: the values are converted. Names that stand side by side in one source are
    different columns, and those that could be either of them stay on their own.

    In the order of their first names.

    Examples
    --------
    >>> names = [NameProfile((name,), 1 << at, {"number": 3}) for at, name in enumerate(
    ...     ["depth_m", "Depth (m)", "depth", "level", "level_cm", "Level (m)"])]
    >>> [[one.name for one in column] for column in certain_columns(names)]
    [['depth_m', 'Depth (m)', 'depth'], ['level'], ['level_cm', 'Level (m)']]
    """
    columns: list[list[NameProfile]] = []
    for loose in _by_key(known, lambda one: loosened(without_serial(one.name))):
        columns += [loose] if not _together(loose) else [[one] for one in loose]
    merged = [reduce(NameProfile.with_other, column) for column in columns]
    place = {one.names[0]: at for at, one in enumerate(merged)}
    result: dict[int, list[NameProfile]] = {}
    for group in _by_key([one for one in merged if not one.by_position], lambda one: _core(one.name)):
        for part in _parts(group):
            numbers = sorted(place[one.names[0]] for one in part)
            result[numbers[0]] = [one for number in numbers for one in columns[number]]
    for one in merged:
        if one.by_position:
            result[place[one.names[0]]] = columns[place[one.names[0]]]
    return [result[number] for number in sorted(result)]


def _by_key(known: Iterable[NameProfile], key: Callable[[NameProfile], str]) -> list[list[NameProfile]]:
    groups: dict[str, list[NameProfile]] = {}
    for one in known:
        groups.setdefault(key(one) or f"={one.name}", []).append(one)
    return list(groups.values())


def _together(known: Sequence[NameProfile]) -> bool:
    """Whether two names are in one source, or some have no header."""
    seen = 0
    for one in known:
        if seen & one.sources:
            return True
        seen |= one.sources
    return len({one.by_position for one in known}) > 1


def _core(name: str) -> str:
    """A name without its unit, accents and plurals; empty where it has no words."""
    name = without_serial(name)
    words = split_unit(name)[0]
    # what is written with signs that carry meaning is left to the stricter comparison
    bare = loosened(without_accents(name))
    signs = "".join(letter for letter in bare if letter in "#&@+¬⋅∙")
    return "" if not words else signs + " ".join(_singular(word) for word in words)


def _singular(word: str) -> str:
    if len(word) < _SHORT or not word.endswith("s") or word.endswith(_NO_PLURAL):
        return word
    if word.endswith("ies") and len(word) > _SHORT + 1:
        return word[:-3] + "y"
    if word.endswith(("sses", "xes", "ches", "shes")):
        return word[:-2]
    return word[:-1]


def _parts(group: Sequence[NameProfile]) -> list[list[NameProfile]]:
    """Names with one core: together where all of them can be one column, on their own where some cannot."""
    if len(group) == 1 or _together(group):
        return [[one] for one in group]
    units: list[str] = []
    for one in group:
        units += [unit for unit in one.given_units if not any(same_unit(unit, each) for each in units)]
    if len(units) > 1:  # those without a unit could be any of them
        found = [[one] for one in group if not one.given_units]
        for some in _quantities(units):
            part = [
                one
                for one in group
                if any(same_unit(unit, each) for unit in some for each in one.given_units)
            ]
            found += _agreeing(part)
        return found
    return _agreeing(group)


def _quantities(units: Sequence[str]) -> list[list[str]]:
    """Units by what they measure: those of one can be converted to each other."""
    found: list[list[str]] = []
    for unit in units:
        like = next((some for some in found if conversion_to(some[0], unit) is not None), None)
        if like is None:
            found.append([unit])
        else:
            like.append(unit)
    return found


def _agreeing(group: Sequence[NameProfile]) -> list[list[NameProfile]]:
    """Join names with the first one if their values have the same kind and size; others stay alone."""
    if any(len(one.given_units) > 1 for one in group):
        return [[one] for one in group]
    most = max(group, key=lambda one: one.count)
    fitting = [one for one in group if one is most or _agree(one, most)]
    return [fitting, *([one] for one in group if one not in fitting)]


def _agree(one: NameProfile, other: NameProfile) -> bool:
    if not one.may_be_of_kind(other):
        return False
    same = bool(one.given_units) == bool(other.given_units)
    if not same and {one.family, other.family} - {"number", ""}:
        return False  # texts have no units; the end of the name means something else
    if not same and any(unit in CURRENCIES for unit in (*one.given_units, *other.given_units)):
        return False  # an amount without a currency may be one of any
    if same or not len(one.quantiles) or not len(other.quantiles):
        return True
    (low, _, middle, _, high), (least, _, median, _, most) = one.quantiles, other.quantiles
    if low <= most and least <= high:
        return True
    small, large = sorted((abs(middle), abs(median)))
    return bool(small and large / small < _FAR)
