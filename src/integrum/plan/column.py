"""A column of the table: its name, its type, and the header cells that belong to it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import cast

from integrum.errors import PlanError
from integrum.plan.dataset import check_place
from integrum.plan.fields import BAD_VALUES, HOLDS, BadValuesHere, Case, DateOrder, Percent
from integrum.plan.validating import (
    as_text,
    expected,
    objects,
    one_of,
    pairs,
    set_on,
    share,
    text,
    texts,
    texts_or,
    word_lists,
    yes_or_no,
)
from integrum.plan.wrong_words import fields_answer
from integrum.values.notation import AS_WRITTEN, FIRST_YEAR, ORDERS, PERCENT, Own
from integrum.values.pipeline import CASES, OFFSET, SIGN
from integrum.values.types import TYPES, Type, TypeName
from integrum.values.written.formats import format_error
from integrum.values.zones import is_zone

_TIMES = "dates and times"


@fields_answer
@dataclass(frozen=True)
class Also:
    """Another header of a column, with more about its values.

    Parameters
    ----------
    header
        The header, or a pattern (``*``, ``?``).
    unit
        The unit of its values, where the source does not give it.
    in_
        The sources in which it means this column: a pattern of paths below the common folder, or the name of a group; all
        sources when empty. In a plan file ``in``.

    Raises
    ------
    PlanError
        When a value is not a text.

    Examples
    --------
    >>> Column("water_temp", "number", unit="degC", also=["Temp", Also("T", unit="°C")]).headers
    ('water_temp', 'Temp', 'T')
    """

    header: str
    unit: str = ""
    in_: str = ""

    def __post_init__(self) -> None:
        text(self.header, "header")
        text(self.unit, "unit", empty=True)
        set_on(self, "in_", as_text(self.in_))
        text(self.in_, "in", empty=True)


@fields_answer
@dataclass(frozen=True)
class Maybe:
    """A header that may belong to a column: a guess, which a run does not use.

    Parameters
    ----------
    header
        A header of the sources that may be the column.
    score
        Probability that the guess is right, from 0 to 1, as measured on guesses like it.
    because
        The evidence in words.
    in_
        In which sources, as for `Also`.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Column("water_temp", "number", maybe=[Maybe("T_water", 0.86, "similar name; same range")]).headers
    ('water_temp',)
    """

    header: str
    score: float = 0.0
    because: str = ""
    in_: str = ""

    def __post_init__(self) -> None:
        text(self.header, "header")
        share(self.score, "score")
        text(self.because, "because", empty=True)
        set_on(self, "in_", as_text(self.in_))
        text(self.in_, "in", empty=True)


@fields_answer
@dataclass(frozen=True)
class Alike:
    """A value that may be a spelling of another value: a guess, which a run does not use.

    Parameters
    ----------
    value, as_
        The value, and the value that it may mean; in a plan file ``as``.
    because
        The evidence in words.

    Raises
    ------
    PlanError
        When a value is not a text.

    Examples
    --------
    >>> Column("habitat", alike=[Alike("reed bed", "Reed bed", "case or spaces")]).alike[0].as_
    'Reed bed'
    """

    value: str
    as_: str
    because: str = ""

    def __post_init__(self) -> None:
        text(self.value, "value")
        text(self.as_, "as")
        text(self.because, "because", empty=True)


@fields_answer
@dataclass(frozen=True)
class Column:
    """One column of the table.

    Parameters
    ----------
    name
        Its name in the table. A header with this name belongs to it.
    type
        ``"text"``, ``"integer"``, ``"number"``, ``"boolean"``, ``"date"``, ``"time"``, ``"datetime"`` or ``"month"``.
    also
        Other headers that belong to it, as texts or `Also`.
    maybe
        Headers that may belong to it, as texts or `Maybe`. A run does not use them and gives a warning.
    never
        Headers that do not belong to it; a draft does not suggest them again.
    missing
        Missing codes: texts that mean "no value". Their cells are empty in the table. In a column of numbers ``"-999"`` also
        means ``-999.0``, and ``-999,0`` where the source has a decimal comma.
    first_filled
        Whether a source may have several of its headers. Each row takes the first value, in the order of `also`; two
        different values are a warning.
    required
        Whether a source without this column is set aside.
    optional
        Whether a table without this column in any source is fine; otherwise that is a warning.
    unit
        Unit of its values. Values of a source with another unit of the same quantity are converted; a source with a unit
        of another quantity is set aside.
    description
        What it is, in a sentence. It is written to the codebook and, where the format allows it, with the table.
    case
        How letters are written in the table: ``"lower"``, ``"upper"`` or ``"title"``; unchanged when empty.
    swap
        Texts inside cells and their replacements, such as ``{"-": " "}``.
    values
        Whole values and their replacements, such as ``{"amb": "Ambermere"}``.
    alike
        Values that may be spellings of other values, as `Alike`. A run does not use them; move them to `values`.
    from_
        Headers whose cells together make its values, such as ``["Date", "Time"]``; in a plan file ``from``. Used in sources
        that have all of them.
    date_order
        Order of day, month and year in dates of digits: ``"dmy"``, ``"mdy"`` or ``"ymd"``; that of the group when empty.
        Without it such dates are not read. ISO 8601 is always read.
    date_order_in
        The order in some sources, where it is another one: patterns of paths below the common folder, or names of groups, by
        order, such as ``{"mdy": ["north/**"]}``.
    format
        Formats of its dates and times in POSIX codes, such as ``["%d.%m.%Y"]``; or, for numbers, ``"serial-days"``,
        ``"serial-days-1904"``, ``"epoch-seconds"`` or ``"epoch-milliseconds"``.
    century_from
        First of the hundred years that years with two digits mean: 1969 to 2068, as in POSIX.
    zone
        ``"UTC"`` or the name of a time zone: times with an offset are converted to it, times without are local times in it.
        ``"as-written"``: local times are not changed.
    offset
        With ``zone = "as-written"``: name of an additional column for the offsets.
    spelling
        One spelling for its dates and times in the table, such as ``"%Y-%m-%d %H:%M:%S"``; unchanged when empty.
    percent
        Allows percent signs: ``"as-written"`` (45 % is 45) or ``"share"`` (45 % is 0.45).
    censored
        Name of an additional column for the signs of values below or above what can be measured: ``<0.05`` becomes 0.05
        and the sign ``<``.
    allowed
        The allowed values; all others are bad values.
    bad_values
        What to do with values that do not have its type; as in the group or in `Rules` when empty.
    bad_share
        A source with a larger share of bad values is reported once, as an error; as in the group or in `Rules` when None.
    undecided
        Why a draft made it text though most of its values are of another type, in words. A run repeats it as a warning;
        delete it when it is decided.
    read
        A function of yours that gets a text and returns a text or None. It is called once for each distinct value,
        before the type is checked. In a plan file ``"steps.py:depth"``: a function in a file beside the plan.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Column("water_temp", "number", also=["Temp (°C)"], missing=["-999"]).headers
    ('water_temp', 'Temp (°C)')
    """

    name: str
    type: TypeName = "text"
    also: Sequence[str | Also] = field(default=(), metadata={HOLDS: Also})
    maybe: Sequence[str | Maybe] = field(default=(), metadata={HOLDS: Maybe})
    never: Sequence[str] = ()
    first_filled: bool = False
    missing: Sequence[str] = ()
    required: bool = False
    optional: bool = False
    unit: str = ""
    description: str = ""
    case: Case = ""
    swap: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)
    alike: Sequence[Alike] = field(default=(), metadata={HOLDS: Alike})
    from_: Sequence[str] = ()
    date_order: DateOrder = ""
    date_order_in: Mapping[str, Sequence[str]] = field(default_factory=dict)
    format: Sequence[str] = ()
    century_from: int = FIRST_YEAR
    zone: str = ""
    offset: str = ""
    spelling: str = ""
    percent: Percent = ""
    censored: str = ""
    allowed: Sequence[str] = ()
    bad_values: BadValuesHere = ""
    bad_share: float | None = None
    undecided: str = ""
    read: str | Own | None = None

    def __post_init__(self) -> None:
        text(self.name, "name")
        one_of(self.type, tuple(TYPES), "type")
        set_on(self, "also", texts_or(Also, self.also, "also"))
        set_on(self, "maybe", texts_or(Maybe, self.maybe, "maybe"))
        set_on(self, "never", texts(self.never, "never", lone=True))
        for header in self.never:
            if header in self.headers:
                raise PlanError(
                    f'the header "{header}" is in both `also` and `never`; remove it from one of them',
                    "never",
                )
        yes_or_no(self.first_filled, "first_filled")
        set_on(self, "missing", texts(self.missing, "missing", lone=True, empty=True))
        yes_or_no(self.required, "required")
        yes_or_no(self.optional, "optional")
        if self.required and self.optional:
            raise PlanError("a column cannot be both required and optional", "optional")
        text(self.unit, "unit", empty=True)
        text(self.description, "description", empty=True)
        one_of(self.case, CASES, "case")
        set_on(self, "swap", pairs(self.swap, "swap"))
        set_on(self, "values", pairs(self.values, "values"))
        set_on(self, "alike", objects(self.alike, Alike, "alike"))
        set_on(self, "allowed", texts(self.allowed, "allowed", lone=True))
        one_of(self.bad_values, ("", *BAD_VALUES), "bad_values")
        if self.bad_share is not None:
            set_on(self, "bad_share", share(self.bad_share, "bad_share"))
        text(self.undecided, "undecided", empty=True)
        if self.read is not None and not callable(self.read):
            check_place(text(self.read, "read", 'a function, or a text such as "steps.py:depth"'))
        self._check_times()
        self._check_numbers()

    def _check_times(self) -> None:
        set_on(self, "from_", texts(self.from_, "from", lone=True))
        if len(self.from_) == 1:
            raise PlanError("expected several headers; a single one belongs in `also`", "from")
        if self.from_ and self.first_filled:
            raise PlanError("`from` and first_filled cannot be combined", "from")
        one_of(self.date_order, ("", *ORDERS), "date_order")
        set_on(self, "date_order_in", word_lists(self.date_order_in, "date_order_in"))
        for order in self.date_order_in:
            one_of(order, ORDERS, "date_order_in")
        set_on(self, "format", texts(self.format, "format", lone=True))
        for number, each in enumerate(self.format, 1):
            if wrong := format_error(each):
                raise PlanError(
                    f'"{each}" is not a valid format for dates or times: {wrong}', f"format[{number}]"
                )
        if (
            isinstance(self.century_from, bool)
            or not isinstance(self.century_from, int)
            or not 0 < self.century_from < 9900
        ):
            raise PlanError(expected("a year, such as 1969", self.century_from), "century_from")
        if self.zone and self.zone != AS_WRITTEN and not is_zone(text(self.zone, "zone")):
            raise PlanError(
                f'"{self.zone}" is not a time zone; use "UTC", a name such as "Europe/Berlin", or "as-written"',
                "zone",
            )
        one_of(self.spelling, ("", *self.kind.spellings), "spelling")
        self._check_keys(
            {"date_order": _TIMES, "date_order_in": _TIMES, "format": _TIMES, "zone": "the type datetime"}
        )
        text(self.offset, "offset", empty=True)
        if self.offset and self.zone != AS_WRITTEN:
            raise PlanError('needs zone = "as-written"', "offset")

    def _check_numbers(self) -> None:
        one_of(self.percent, ("", *PERCENT), "percent")
        text(self.censored, "censored", empty=True)
        self._check_keys({"percent": "numbers", "censored": "numbers"})
        if self.censored and self.first_filled:
            raise PlanError("cannot be combined with first_filled", "censored")

    def _check_keys(self, keys: Mapping[str, str]) -> None:
        """Refuse keys that are for other types; each comes with what it is for, in words."""
        for name, what in keys.items():
            if getattr(self, name) and name not in self.kind.keys:
                raise PlanError(f"only for {what}, but the type is {self.type}", name)

    @property
    def kind(self) -> Type:
        """Its type, with all that is known of it."""
        return TYPES[self.type]

    @property
    def given(self) -> frozenset[str]:
        """The keys that are set and depend on its type."""
        return frozenset(name for name in self.kind.keys if getattr(self, name))

    @cached_property
    def beside(self) -> tuple[Beside, ...]:
        """The columns that take what stands beside its values: signs, offsets."""
        made = [
            (
                self.censored,
                SIGN,
                f"the sign of {self.name} where its value is beyond what can be measured, such as <",
            ),
            (self.offset, OFFSET, f"the offset of the local time in {self.name}"),
        ]
        return tuple(
            Beside(name, description=said, of=self.name, take=take) for name, take, said in made if name
        )

    @cached_property
    def headers(self) -> tuple[str, ...]:
        """Every header cell that belongs to this column, its own name first."""
        return tuple(dict.fromkeys((self.name, *(one.header for one in self.others))))

    @cached_property
    def others(self) -> tuple[Also, ...]:
        """The entries of `also`, each as an object."""
        return tuple(Also(one) if isinstance(one, str) else one for one in self.also)

    @cached_property
    def guesses(self) -> tuple[Maybe, ...]:
        """The entries of `maybe`, each as an object."""
        return tuple(Maybe(one) if isinstance(one, str) else one for one in self.maybe)

    def order_in(self, places: Collection[str]) -> DateOrder:
        """The order of day, month and year in sources with these places.

        Examples
        --------
        >>> day = Column("day", "date", date_order="dmy", date_order_in={"mdy": ["north/**"]})
        >>> day.order_in(["north/**"]), day.order_in([])
        ('mdy', 'dmy')
        """
        named = (order for order, some in self.date_order_in.items() if set(some) & set(places))
        return cast(DateOrder, next(named, self.date_order))

    def unit_of(self, header: str, places: Collection[str] = ()) -> str:
        """The unit that the plan gives for one of its headers; empty when it says nothing.

        Parameters
        ----------
        header
            The header, or the pattern that it fits.
        places
            What `in` may say for the sources at hand.

        Examples
        --------
        >>> Column("depth", "number", also=[Also("Depth (ft)", unit="ft")]).unit_of("Depth (ft)")
        'ft'
        """
        given = [one for one in self.others if one.header == header and (not one.in_ or one.in_ in places)]
        return next((one.unit for one in sorted(given, key=lambda one: not one.in_) if one.unit), "")


@dataclass(frozen=True)
class Beside(Column):
    """A column for what stands beside the values of another one, such as signs."""

    # the other column, and what of its cells is taken: ``"sign"`` or ``"offset"``
    of: str = ""
    take: str = ""
