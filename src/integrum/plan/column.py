"""A column of the table: its name, its type, and the header cells that belong to it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from integrum.errors import PlanError
from integrum.plan.code import check_place
from integrum.plan.fields import HOLDS
from integrum.plan.validating import (
    expected,
    objects,
    one_of,
    pairs,
    set_on,
    share,
    text,
    texts,
    texts_or,
    yes_or_no,
)
from integrum.plan.words import BAD_VALUES
from integrum.values.manner import FIRST_YEAR, ORDERS, PERCENT
from integrum.values.own import Own
from integrum.values.pipeline import CASES, OFFSET, SIGN
from integrum.values.spelling import SPELLINGS
from integrum.values.types import TYPES
from integrum.values.written.formats import format_error
from integrum.values.zones import AS_WRITTEN, is_zone


@dataclass(frozen=True)
class Also:
    """Another header cell of a column, and what is known about the values below it.

    Parameters
    ----------
    header
        The header cell; or a pattern (``*``, ``?``) where no source has a header cell that is literally so.
    unit
        The unit of its values, where the source does not give it.
    in_
        In which sources it means this column: a pattern of paths below the common folder, or the name of a group; all
        when empty. In a plan file ``in``.

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
        text(self.in_, "in", empty=True)


@dataclass(frozen=True)
class Maybe:
    """A header cell that may belong to a column: a guess, which a run does not use.

    Parameters
    ----------
    header
        The header cell.
    score
        How likely the guess is right, from 0 to 1, as it was measured for guesses like it.
    because
        What speaks for it.
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
        text(self.in_, "in", empty=True)


@dataclass(frozen=True)
class Alike:
    """A value that may be another one in another spelling: a guess, which a run does not use.

    Parameters
    ----------
    value, as_
        The value, and the one that it may be; in a plan file ``as``.
    because
        What speaks for it.

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


@dataclass(frozen=True)
class Column:
    """One column of the table.

    Parameters
    ----------
    name
        Its name in the table; a header cell that reads the same belongs to it.
    type
        ``"text"``, ``"integer"``, ``"number"``, ``"boolean"``, ``"date"``, ``"time"`` or ``"datetime"``.
    also
        Other header cells that belong to it, as texts or `Also`.
    maybe
        Header cells that may belong to it, as texts or `Maybe`; a run does not use them, and says so.
    never
        Header cells that were guessed and refused; they are not offered again.
    missing
        Cell texts that stand for "no value"; they are empty in the table. In a column of numbers ``-999`` also means
        ``-999.0``, and ``-999,0`` where the source has a decimal comma.
    first_filled
        Whether a source may have several of its header cells. Each row takes the first that has a value, in the order
        of `also`; where two have one and they differ, that is a problem.
    required
        Whether a source without this column is set aside.
    optional
        Whether it is fine that no source has it.
    unit
        The unit of its values. Those of a source that gives another unit of the same quantity are converted; a source
        with a unit of another quantity is set aside.
    description
        What it is, in a sentence; it goes to the codebook, and with the table where its format has a place for it.
    case
        ``"lower"``, ``"upper"`` or ``"title"``: how letters are written in the table; as they are when empty.
    swap
        Texts inside the cells and what takes their place, such as ``{"-": " "}``.
    values
        Whole values and what they are called in the table, such as ``{"amb": "Ambermere"}``.
    alike
        Values that may be others in another spelling, as `Alike`; a run does not use them. Move them to `values`.
    from_
        Header cells that make up its values together, such as ``["Date", "Time"]``; in a plan file ``from``. A source that
        has all of them is read so.
    date_order
        ``"dmy"``, ``"mdy"`` or ``"ymd"``: how day, month and year follow where all are digits; that of the group when
        empty. Without it such dates are not read. ISO 8601 is read in any case.
    format
        The forms of its dates and times in POSIX codes, such as ``["%d.%m.%Y"]``; or ``"serial-days"``,
        ``"serial-days-1904"``, ``"epoch-seconds"``, ``"epoch-milliseconds"`` for numbers.
    century_from
        The first of the hundred years that years of two digits stand for: 1969 to 2068 as POSIX has it.
    zone
        ``"UTC"`` or the name of a zone: times with an offset are converted, those without are local times there.
        ``"as-written"``: local times stay as they are.
    offset
        With ``zone = "as-written"`` the name of one more column, for the offsets.
    spelling
        The one spelling of its dates and times in the table, such as ``"%Y-%m-%d %H:%M:%S"``; as they are when empty.
    percent
        ``"as-written"`` (45 % is 45) or ``"share"`` (it is 0.45): lets numbers have a percent sign.
    censored
        The name of one more column, for the signs of values below or above what could be measured: ``<0.05`` is 0.05
        with the sign ``<``.
    allowed
        The only values that it may have; others are bad values.
    bad_values
        What is done with values that are not of its type; that of its group, or of the plan's rules, when empty.
    bad_share
        Beyond that share of bad values a source is reported as a whole; that of its group or of the rules when None.
    read
        A function of one's own from one text to one text or None, called once for each distinct value, before the type is
        looked at; in a plan file ``"steps.py:depth"``, a function in a file beside the plan.

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
    type: str = "text"
    also: Sequence[str | Also] = field(default=(), metadata={HOLDS: Also})
    maybe: Sequence[str | Maybe] = field(default=(), metadata={HOLDS: Maybe})
    never: Sequence[str] = ()
    first_filled: bool = False
    missing: Sequence[str] = ()
    required: bool = False
    optional: bool = False
    unit: str = ""
    description: str = ""
    case: str = ""
    swap: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)
    alike: Sequence[Alike] = field(default=(), metadata={HOLDS: Alike})
    from_: Sequence[str] = ()
    date_order: str = ""
    format: Sequence[str] = ()
    century_from: int = FIRST_YEAR
    zone: str = ""
    offset: str = ""
    spelling: str = ""
    percent: str = ""
    censored: str = ""
    allowed: Sequence[str] = ()
    bad_values: str = ""
    bad_share: float | None = None
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
                    f'header "{header}" belongs to the column, and never does; take it out of one of the two',
                    "never",
                )
        yes_or_no(self.first_filled, "first_filled")
        set_on(self, "missing", texts(self.missing, "missing", lone=True, empty=True))
        yes_or_no(self.required, "required")
        yes_or_no(self.optional, "optional")
        if self.required and self.optional:
            raise PlanError("a column is required or optional, not both", "optional")
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
        if self.read is not None and not callable(self.read):
            check_place(text(self.read, "read", 'a function, or a text such as "steps.py:depth"'))
        self._check_times()
        self._check_numbers()

    def _check_times(self) -> None:
        set_on(self, "from_", texts(self.from_, "from"))
        if len(self.from_) == 1:
            raise PlanError("expected several header cells; a single one belongs in `also`", "from")
        if self.from_ and self.first_filled:
            raise PlanError(
                "a column is made of several cells, or takes the first filled one; not both", "from"
            )
        one_of(self.date_order, ("", *ORDERS), "date_order")
        set_on(self, "format", texts(self.format, "format", lone=True))
        for number, each in enumerate(self.format, 1):
            if wrong := format_error(each):
                raise PlanError(f'"{each}" is no format of dates or times: {wrong}', f"format[{number}]")
        if (
            isinstance(self.century_from, bool)
            or not isinstance(self.century_from, int)
            or not 0 < self.century_from < 9900
        ):
            raise PlanError(expected("a year, such as 1969", self.century_from), "century_from")
        if self.zone and self.zone != AS_WRITTEN and not is_zone(text(self.zone, "zone")):
            raise PlanError(f'"{self.zone}" is no zone; "UTC", "Europe/Berlin" and "as-written" are', "zone")
        one_of(self.spelling, ("", *SPELLINGS.get(self.type, ())), "spelling")
        for name in ("date_order", "format"):
            if getattr(self, name) and self.type not in ("date", "time", "datetime"):
                raise PlanError(f"it is for dates and times, and the type is {self.type}", name)
        if self.zone and self.type != "datetime":
            raise PlanError(f"it is for the type datetime, and the type is {self.type}", "zone")
        text(self.offset, "offset", empty=True)
        if self.offset and self.zone != AS_WRITTEN:
            raise PlanError('it goes with zone = "as-written"', "offset")

    def _check_numbers(self) -> None:
        one_of(self.percent, ("", *PERCENT), "percent")
        text(self.censored, "censored", empty=True)
        for name in ("percent", "censored"):
            if getattr(self, name) and self.type not in ("number", "integer"):
                raise PlanError(f"it is for numbers, and the type is {self.type}", name)
        if self.censored and self.first_filled:
            raise PlanError(
                "a column with signs takes one cell of a row; say first_filled = false", "censored"
            )

    @property
    def beside(self) -> tuple[Beside, ...]:
        """The columns that take what stands beside its values: signs, offsets."""
        made = [(self.censored, SIGN), (self.offset, OFFSET)]
        return tuple(Beside(name, of=self.name, take=take) for name, take in made if name)

    @property
    def headers(self) -> tuple[str, ...]:
        """Every header cell that belongs to this column, its own name first."""
        return tuple(dict.fromkeys((self.name, *(one.header for one in self.others))))

    @property
    def others(self) -> tuple[Also, ...]:
        """The entries of `also`, each as an object."""
        return tuple(Also(one) if isinstance(one, str) else one for one in self.also)

    @property
    def guesses(self) -> tuple[Maybe, ...]:
        """The entries of `maybe`, each as an object."""
        return tuple(Maybe(one) if isinstance(one, str) else one for one in self.maybe)

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
    """A column of the table for what stands beside the values of another one; plans name it, and do not describe it.

    Attributes
    ----------
    of, take
        The other column, and what of its cells is taken: ``"sign"`` or ``"offset"``.
    """

    of: str = ""
    take: str = ""
