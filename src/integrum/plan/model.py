"""What the analyst decided: sources, columns, rules. Frozen, validated when made, no input or output."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Literal

from integrum.errors import PlanError
from integrum.plan.checks import (
    expectation,
    expected,
    nearest,
    objects,
    one_of,
    pairs,
    places,
    set_on,
    text,
    texts,
    texts_or,
    yes_or_no,
)
from integrum.plan.layout import Layout
from integrum.plan.scheme import Scheme
from integrum.values.pipeline import CASES
from integrum.values.types import TYPES

FORMAT = 1
# marks a field whose values are objects of their own, or lists of such: a table in the plan's file
HOLDS = "holds"
# marks such a list whose objects are each a table of its own there, and not inline
AS_TABLES = "as tables"
UNLISTED = ("report", "keep", "refuse")
BAD_VALUES = ("blank", "set-row-aside", "set-source-aside")
DUPLICATES = ("set-aside", "keep")
MISNAMED = ("blank", "set-source-aside")
SEVERAL_LAYOUTS = ("set-source-aside", "first")
FACTS = ("folder", "name", "sheet", "modified")


@dataclass(frozen=True)
class Sources:
    """One group of sources.

    Parameters
    ----------
    find
        Folders (looked through with all their sub-folders), patterns (``*``, ``?``, ``[ab]``, and ``**`` for
        any folders) and files; one text or a list. Relative to the plan file, or to the working folder.
    exclude
        Patterns of what not to take. Without a ``/`` a pattern is held against the file name, with one
        against the path below the common folder.
    sheets
        Which sheets of the workbooks: names and patterns, and with ``!`` before them those not to take. All
        that are visible when there is none of the first kind; a hidden sheet only when it is named.
    group
        A name for the group, to be used in the names of outputs.
    ids
        A scheme for the end of the paths, such as ``"{round}/{lake}_{month}[_{serial}].csv"``; each
        ``{name}`` becomes an identifier, a column filled from the path; the name of a sheet is its last part, as in
        ``"{lake}_{year}.xlsx/{month}"``. See `integrum.scheme.Scheme`.
    constants
        Identifiers that are the same for the whole group.
    facts
        Identifiers from elsewhere: ``"folder"`` (the parent folder's name), ``"name"`` (the file's name
        without suffix), ``"sheet"`` (the sheet's name) or ``"modified"`` (when the file was last changed, in UTC).
    labels
        Friendly names by source name; they stand in the provenance column instead.
    layout
        Where in the sources their parts lie, and how they are written.
    layouts
        Instead of one layout: several. Each source is read by the one that fits it: its text is valid in the encoding, the
        header stands where the layout says and has cells that the plan knows, and the rows below have its width. Sheets
        have the `first_column` and the `last_column` of the first layout.
    expect
        What should be there: a number of sources, a list of paths or names, or for some identifiers the
        values they take (then every combination is expected). What is absent is a problem.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Sources("loggers/**/*.csv", ids="{lake}_{month}.csv", constants={"round": "spring"}).identifiers
    ('lake', 'month', 'round')
    """

    find: Sequence[str]
    exclude: Sequence[str] = ()
    sheets: Sequence[str] = ()
    group: str = ""
    ids: str = ""
    constants: Mapping[str, str] = field(default_factory=dict)
    facts: Mapping[str, str] = field(default_factory=dict)
    labels: Mapping[str, str] = field(default_factory=dict)
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None
    layout: Layout = field(default_factory=Layout, metadata={HOLDS: Layout})
    layouts: Sequence[Layout] = field(default=(), metadata={HOLDS: Layout, AS_TABLES: True})

    def __post_init__(self) -> None:
        set_on(self, "find", places(self.find, "find"))
        set_on(self, "exclude", places(self.exclude, "exclude"))
        if not self.find:
            raise PlanError("expected at least one folder, pattern or file; the list is empty", "find")
        set_on(self, "sheets", texts(self.sheets, "sheets", lone=True))
        text(self.group, "group", empty=True)
        text(self.ids, "ids", empty=True)
        for name in ("constants", "facts", "labels"):
            set_on(self, name, pairs(getattr(self, name), name))
        for name, fact in self.facts.items():
            one_of(fact, FACTS, f"facts.{name}")
        set_on(self, "expect", expectation(self.expect))
        try:
            scheme = Scheme(self.ids).names if self.ids else ()
        except PlanError as error:
            raise PlanError(error.message, "ids") from None
        if not isinstance(self.layout, Layout):
            raise PlanError(expected("a Layout", self.layout), "layout")
        set_on(self, "layouts", objects(self.layouts, Layout, "layouts"))
        if self.layouts and self.layout != Layout():
            raise PlanError("give either one layout or several layouts", "layout and layouts")
        captured = dict.fromkeys(name for layout in self.possible_layouts for name in layout.capture)
        names = (*scheme, *self.constants, *self.facts, *captured)
        for name in names:
            if names.count(name) > 1:
                raise PlanError(
                    f'the identifier "{name}" is filled twice', "ids, constants, facts and capture"
                )
        if isinstance(self.expect, Mapping):
            for name in self.expect:
                if name not in names:
                    raise PlanError(
                        f'"{name}" is no identifier of this group{nearest(name, names)}', "expect"
                    )
        set_on(self, "_identifiers", names)

    @property
    def possible_layouts(self) -> tuple[Layout, ...]:
        """The layouts that its sources may have: the one, or all of the several."""
        return tuple(self.layouts) or (self.layout,)

    @property
    def key(self) -> str:
        """What tells this group from the others: its name, or else where its sources are."""
        return self.group or ", ".join(self.find)

    @property
    def identifiers(self) -> tuple[str, ...]:
        """The names of the columns that this group fills from outside the data rows."""
        return tuple(getattr(self, "_identifiers", ()))


@dataclass(frozen=True)
class Also:
    """Another header cell of a column, and what is known about the values below it.

    Parameters
    ----------
    header
        The header cell.
    unit
        The unit of its values, where the source does not give it.

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

    def __post_init__(self) -> None:
        text(self.header, "header")
        text(self.unit, "unit", empty=True)


@dataclass(frozen=True)
class Column:
    """One column of the table.

    Parameters
    ----------
    name
        Its name in the table; a header cell that reads the same belongs to it.
    type
        ``"text"``, ``"integer"``, ``"number"``, ``"boolean"``, ``"date"`` or ``"datetime"``.
    also
        Other header cells that belong to it.
    missing
        Cell texts that stand for "no value"; they are empty in the table.
    required
        Whether a source without this column is set aside.
    unit
        The unit of its values; a source that gives another one is set aside.
    case
        ``"lower"``, ``"upper"`` or ``"title"``: how letters are written in the table; as they are when empty.
    swap
        Texts inside the cells and what takes their place, such as ``{"-": " "}``.
    values
        Whole values and what they are called in the table, such as ``{"amb": "Ambermere"}``.

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
    missing: Sequence[str] = ()
    required: bool = False
    unit: str = ""
    case: str = ""
    swap: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        text(self.name, "name")
        one_of(self.type, tuple(TYPES), "type")
        set_on(self, "also", texts_or(Also, self.also, "also"))
        set_on(self, "missing", texts(self.missing, "missing", lone=True, empty=True))
        yes_or_no(self.required, "required")
        text(self.unit, "unit", empty=True)
        one_of(self.case, CASES, "case")
        set_on(self, "swap", pairs(self.swap, "swap"))
        set_on(self, "values", pairs(self.values, "values"))

    @property
    def headers(self) -> tuple[str, ...]:
        """Every header cell that belongs to this column, its own name first."""
        return (self.name, *(one if isinstance(one, str) else one.header for one in self.also))

    def unit_of(self, header: str) -> str:
        """The unit that the plan gives for one of its headers; empty when it says nothing.

        Examples
        --------
        >>> Column("depth", "number", also=[Also("Depth (ft)", unit="ft")]).unit_of("Depth (ft)")
        'ft'
        """
        given = (one.unit for one in self.also if isinstance(one, Also) and one.header == header)
        return next(given, "")


@dataclass(frozen=True)
class Provenance:
    """The columns that say where a row came from; ``False`` leaves one out.

    Parameters
    ----------
    source
        Name of the column with the path of the source, relative to the common folder.
    source_row
        Name of the column with the number of the row in the source, the header counted.
    sheet
        Name of the column with the sheet of a workbook; it stands after `source` when any source is a sheet.

    Raises
    ------
    PlanError
        When a value is neither a name nor False.

    Examples
    --------
    >>> Provenance(source="file", source_row=False).names
    ('file', 'sheet')
    """

    source: str | Literal[False] = "source"
    source_row: str | Literal[False] = "source_row"
    sheet: str | Literal[False] = "sheet"

    def __post_init__(self) -> None:
        for each in fields(self):
            value = getattr(self, each.name)
            if value is not False:
                text(value, each.name, "a column name, or false to leave it out")

    @property
    def names(self) -> tuple[str, ...]:
        """The names of those that are kept, in their order in the table."""
        return tuple(name for name in (self.source, self.sheet, self.source_row) if name is not False)


@dataclass(frozen=True)
class Rules:
    """What to do where sources and plan disagree.

    Parameters
    ----------
    unlisted
        A header that no column claims: ``"report"`` (a warning; it is not in the table), ``"keep"`` (a text
        column at the end of the table) or ``"refuse"`` (the source is set aside).
    bad_values
        A cell that is not of its column's type: ``"blank"`` (the cell is empty in the table),
        ``"set-row-aside"`` or ``"set-source-aside"``. The raw text is kept in the record each time.
    duplicates
        A source with the same content as an earlier one: ``"set-aside"`` or ``"keep"``.
    misnamed
        A path that does not fit its group's `ids`: ``"blank"`` (its identifiers are empty) or
        ``"set-source-aside"``.
    several_layouts
        A source that fits several layouts of its group, which read it differently: ``"set-source-aside"``, or
        ``"first"`` (the first of them is taken).

    Raises
    ------
    PlanError
        When a value is none of these.

    Examples
    --------
    >>> Rules(bad_values="set-row-aside").unlisted
    'report'
    """

    unlisted: str = "report"
    bad_values: str = "blank"
    duplicates: str = "set-aside"
    misnamed: str = "blank"
    several_layouts: str = "set-source-aside"

    def __post_init__(self) -> None:
        one_of(self.unlisted, UNLISTED, "unlisted")
        one_of(self.bad_values, BAD_VALUES, "bad_values")
        one_of(self.duplicates, DUPLICATES, "duplicates")
        one_of(self.misnamed, MISNAMED, "misnamed")
        one_of(self.several_layouts, SEVERAL_LAYOUTS, "several_layouts")


@dataclass(frozen=True)
class Plan:
    """What the sources are like and what the table shall be.

    Parameters
    ----------
    sources
        The groups of sources, in the order in which they come in the table.
    columns
        The columns of the table, in their order. May be empty only when ``rules.unlisted`` is ``"keep"``.
    provenance
        The columns that say where a row came from; they stand first in the table.
    rules
        What to do where sources and plan disagree.

    Raises
    ------
    PlanError
        When two columns have the same name or claim the same header, or a value is not of its kind.

    Examples
    --------
    >>> plan = Plan(sources=[Sources("loggers")], columns=[Column("depth", "number")])
    >>> plan.table_names
    ('source', 'sheet', 'source_row', 'depth')
    """

    sources: Sequence[Sources] = field(metadata={HOLDS: Sources})
    columns: Sequence[Column] = field(default=(), metadata={HOLDS: Column})
    provenance: Provenance = field(default_factory=Provenance, metadata={HOLDS: Provenance})
    rules: Rules = field(default_factory=Rules, metadata={HOLDS: Rules})

    def __post_init__(self) -> None:
        set_on(self, "sources", objects(self.sources, Sources, "sources"))
        set_on(self, "columns", objects(self.columns, Column, "columns"))
        for name, kind in (("provenance", Provenance), ("rules", Rules)):
            if not isinstance(getattr(self, name), kind):
                raise PlanError(expected(f"a {kind.__name__}", getattr(self, name)), name)
        if not self.sources:
            raise PlanError("expected at least one group of sources", "sources")
        if not self.columns and self.rules.unlisted != "keep":
            raise PlanError('expected at least one column (or unlisted = "keep" in rules)', "columns")
        self._check_names()

    def _check_names(self) -> None:
        taken: dict[str, str] = {}
        for name in self.provenance.names:
            if name in taken:
                raise PlanError(f'two provenance columns are named "{name}"', "provenance")
            taken[name] = "provenance"
        # there is no such column unless there are workbooks; see `for_sheets`
        taken.pop(self.provenance.sheet or "", None)
        for name in self.identifiers:
            if name in taken:
                raise PlanError(
                    f'the identifier "{name}" has the name of a provenance column; rename one of the two',
                    "sources",
                )
        claims: dict[str, str] = {}
        for number, column in enumerate(self.columns, 1):
            place = f'columns[{number}] "{column.name}"'
            if taken.get(column.name) == "provenance":
                raise PlanError(
                    f'the name is taken by the provenance column "{column.name}"; '
                    "rename one of the two, or leave the other out with false",
                    f"{place}, name",
                )
            if column.name in taken:
                raise PlanError(f"duplicate column name, the same as {taken[column.name]}", f"{place}, name")
            taken[column.name] = place
            for header in dict.fromkeys(column.headers):
                if header in claims:
                    raise PlanError(f'header "{header}" is claimed by {claims[header]} too', place)
                claims[header] = place

    def group(self, number: int) -> Sources:
        """A group of sources by its number, from 1."""
        return self.sources[number - 1]

    @property
    def identifiers(self) -> tuple[str, ...]:
        """The identifiers of all groups, in order."""
        return tuple(dict.fromkeys(name for group in self.sources for name in group.identifiers))

    @property
    def table_columns(self) -> tuple[Column, ...]:
        """The columns after those of provenance: identifiers that `columns` does not place, then `columns`."""
        placed = {column.name for column in self.columns}
        return (*(Column(name) for name in self.identifiers if name not in placed), *self.columns)

    def for_sheets(self, there: bool) -> Plan:
        """The same plan for a run with sheets of workbooks, or without.

        Raises
        ------
        PlanError
            When there are sheets, and a column has the name of the provenance column for them.
        """
        sheet = self.provenance.sheet
        if not there:
            return replace(self, provenance=replace(self.provenance, sheet=False))
        if sheet in {column.name for column in self.table_columns}:
            raise PlanError(
                f'"{sheet}" is the provenance column for the sheets of workbooks, and a column of the table too; '
                "rename one of the two, or leave the other out with false",
                "provenance, key sheet",
            )
        return self

    @property
    def table_names(self) -> tuple[str, ...]:
        """The names of the table's columns that the plan fixes, in order; that of sheets is there only with sheets."""
        return (*self.provenance.names, *(column.name for column in self.table_columns))
