"""The parts of a plan, and to which of them a key belongs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import Self

from integrum.errors import PlanError
from integrum.plan.check import NEEDS, Check
from integrum.plan.column import Column
from integrum.plan.dataset import Dataset
from integrum.plan.fields import HOLDS, key_of_field
from integrum.plan.layout import Layout
from integrum.plan.rules import Provenance, Rules
from integrum.plan.sources import Sources
from integrum.plan.validating import expected, objects, set_on, texts, word_lists
from integrum.plan.wide import Wide, with_wide
from integrum.plan.wrong_words import nearest
from integrum.values.types import TYPES

FORMAT = 1
# in this order: a key that two tables have is more likely meant for the first
_TABLES: tuple[tuple[str, type], ...] = (
    ("[[columns]]", Column),
    ("[sources.layout], below its [[sources]]", Layout),
    ("[[sources]]", Sources),
    ("[rules]", Rules),
    ("[dataset]", Dataset),
    ("[provenance]", Provenance),
    ("[[checks]]", Check),
    ("wide = { ... } of [[sources]]", Wide),
)
_SUBTABLES = {"layout": "write [sources.layout], below its [[sources]]", "wide": "write it in [[sources]]"}


@dataclass(frozen=True)
class PlanParts:
    """The parts of a plan, checked against each other; `integrum.plan.plan.Plan` is what people make."""

    leave_out: Sequence[str] = field(
        default=(), kw_only=True
    )  # first, as it stands above the tables in the file
    dataset: Dataset = field(default_factory=Dataset, metadata={HOLDS: Dataset}, kw_only=True)
    sources: Sequence[Sources] = field(metadata={HOLDS: Sources})
    columns: Sequence[Column] = field(default=(), metadata={HOLDS: Column})
    provenance: Provenance = field(default_factory=Provenance, metadata={HOLDS: Provenance})
    rules: Rules = field(default_factory=Rules, metadata={HOLDS: Rules})
    glossary: Mapping[str, Sequence[str]] = field(default_factory=dict)
    checks: Sequence[Check] = field(default=(), metadata={HOLDS: Check})

    def __post_init__(self) -> None:
        set_on(self, "sources", objects(self.sources, Sources, "sources", "folders, patterns and files"))
        set_on(self, "columns", objects(self.columns, Column, "columns", "names of text columns"))
        set_on(self, "checks", objects(self.checks, Check, "checks"))
        set_on(self, "leave_out", texts(self.leave_out, "leave_out", lone=True))
        set_on(self, "glossary", word_lists(self.glossary, "glossary"))
        for name, kind in (("dataset", Dataset), ("provenance", Provenance), ("rules", Rules)):
            if not isinstance(getattr(self, name), kind):
                raise PlanError(expected(f"a {kind.__name__}", getattr(self, name)), name)
        if not self.sources:
            raise PlanError("expected at least one group of sources", "sources")
        if not self.columns and self.rules.unlisted == "refuse":
            raise PlanError('expected at least one column, as unlisted = "refuse" in rules', "columns")
        if not self.columns:
            set_on(self, "rules", replace(self.rules, unlisted="keep"))
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
        claims: dict[tuple[str, str], str] = {}
        for number, column in enumerate(self.columns, 1):
            place = f'columns[{number}] "{column.name}"'
            if taken.get(column.name) == "provenance":
                raise PlanError(
                    f'the provenance column "{column.name}" has this name; rename one of them, or set the other to '
                    "false",
                    f"{place}, name",
                )
            if column.name in taken:
                raise PlanError(f"duplicate column name: {taken[column.name]} has it too", f"{place}, name")
            taken[column.name] = place
            for claim in dict.fromkeys(
                [(column.name, ""), *((one.header, one.in_) for one in column.others)]
            ):
                if claim in claims:
                    raise PlanError(f'the header "{claim[0]}" also belongs to {claims[claim]}', place)
                claims[claim] = place
        for number, column in enumerate(self.columns, 1):
            for each in column.beside:
                if each.name in taken:
                    raise PlanError(
                        f'the column for its {each.take}s is named "{each.name}", and so is {taken[each.name]}',
                        f'columns[{number}] "{column.name}"',
                    )
                taken[each.name] = f'the column for the {each.take}s of "{column.name}"'
        for header in self.leave_out:
            if (header, "") in claims:
                raise PlanError(f'the header "{header}" also belongs to {claims[header, ""]}', "leave_out")
        self._check_wide()
        self._check_checks()

    def _check_wide(self) -> None:
        """What wide sources are turned into has to be in the table."""
        there = {column.name for column in self.own_columns}
        for number, group in enumerate(self.sources, 1):
            if group.wide is None:
                continue
            for name in (*group.wide.names, group.wide.value_column):
                if name and name not in there:
                    raise PlanError(
                        f'there is no column "{name}"{nearest(name, there)}; add [[columns]] with name = "{name}"',
                        f"sources[{number}], wide",
                    )
                if name in group.identifiers:
                    raise PlanError(
                        f'"{name}" is also an identifier of this group', f"sources[{number}], wide"
                    )

    def _check_checks(self) -> None:
        """Checks have names of their own, and look at columns that are there."""
        types = {column.name: column.type for column in self.table_columns}
        there = {**dict.fromkeys(self.provenance.names, "text"), **types}
        keys: dict[str, int] = {}
        for number, check in enumerate(self.checks, 1):
            place = f"checks[{number}]"
            first = keys.setdefault(check.key, number)
            if first != number:
                raise PlanError(
                    f'it is named "{check.key}", and so is checks[{first}]; give it a `name`', place
                )
            for name in check.columns:
                if name not in there and self.rules.unlisted != "keep":
                    raise PlanError(f'the table has no column "{name}"{nearest(name, there)}', place)
            kind = there.get(check.column, "")
            if kind and check.kind in NEEDS and kind not in NEEDS[check.kind]:
                raise PlanError(
                    f'{check.kind} is for {", ".join(NEEDS[check.kind])}; "{check.column}" is {kind}', place
                )
            for bound in check.range if kind else ():
                is_number = not isinstance(bound, str)
                if bound != "" and is_number != TYPES[kind].is_number:
                    raise PlanError(expected(f"a {kind}", bound), f"{place}, key range")
                if bound and isinstance(bound, str) and TYPES[kind].parse(bound) is None:
                    example = f', such as "{TYPES[kind].examples[-1]}"'
                    wanted = f"a {kind}{' in ISO 8601' if TYPES[kind].is_standard_time else example}"
                    raise PlanError(expected(wanted, bound), f"{place}, key range")

    def group(self, number: int) -> Sources:
        """A group of sources by its number, from 1."""
        return self.sources[number - 1]

    @cached_property
    def places(self) -> tuple[str, ...]:
        """What `in` and `date_order_in` say in its columns, each once."""
        said = [one.in_ for column in self.columns for one in column.others]
        said += [one.in_ for column in self.columns for one in column.guesses]
        said += [place for column in self.columns for some in column.date_order_in.values() for place in some]
        return tuple(place for place in dict.fromkeys(said) if place)

    @cached_property
    def identifiers(self) -> tuple[str, ...]:
        """The identifiers of all groups, in order."""
        return tuple(dict.fromkeys(name for group in self.sources for name in group.identifiers))

    @cached_property
    def own_columns(self) -> tuple[Column, ...]:
        """The columns, with those that `wide` of all groups takes replaced by those that it fills."""
        wides = [group.wide for group in self.sources if group.wide is not None]
        return (
            with_wide(self.columns, wides)
            if wides and len(wides) == len(self.sources)
            else tuple(self.columns)
        )

    @cached_property
    def table_columns(self) -> tuple[Column, ...]:
        """The columns after those of provenance: identifiers that `columns` does not place, then `columns`.

        What stands beside the values of a column, such as signs, comes right behind it.
        """
        placed = {column.name for column in self.own_columns}
        columns = (*(Column(name) for name in self.identifiers if name not in placed), *self.own_columns)
        return tuple(each for column in columns for each in (column, *column.beside))

    def for_sheets(self, there: bool) -> Self:
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
                f'"{sheet}" is both the provenance column for sheets and a column of the table; rename one of '
                "them, or set sheet = false in [provenance]",
                "provenance, key sheet",
            )
        return self

    @property
    def table_names(self) -> tuple[str, ...]:
        """The names of the table's columns that the plan fixes, in order; that of sheets is there only with sheets."""
        return (*self.provenance.names, *(column.name for column in self.table_columns))


def home_of(key: str, place: str) -> str:
    """Say where a key belongs, as the end of a message.

    Returns an empty text where no table has such a key.

    Parameters
    ----------
    key
        A key that is not known in the place where it stands.
    place
        That place, such as ``sources[1]``; an empty text for the top of the file.

    Examples
    --------
    >>> home_of("header_row", "sources[1]")
    '; it belongs in [sources.layout], below its [[sources]]'
    >>> home_of("layout", ""), home_of("colour", "")
    ('; write [sources.layout], below its [[sources]]', '')
    """
    if not place and key in _SUBTABLES:
        return f"; {_SUBTABLES[key]}"
    homes = [home for home, kind in _TABLES if key in {key_of_field(each.name) for each in fields(kind)}]
    if place.startswith("sources") and "layout" not in place:
        homes.sort(key=lambda home: not home.startswith("[sources.layout]"))
    return f"; it belongs in {homes[0]}" if homes else ""
