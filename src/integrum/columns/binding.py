"""Where each column of the table comes from in the sources of one header variant, and how a plan tells of it."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import pyarrow as pa

from integrum.columns.header import CLAIMED, GUESSED, LEFT_OUT, UNLISTED, Cell, Header, unit_behind
from integrum.columns.matching import MatchContext, match
from integrum.columns.union import WideCells
from integrum.plan.column import Beside, Column
from integrum.plan.sources import Sources
from integrum.problems.problem import Problem, clipped
from integrum.values.arrays import texts
from integrum.values.joining import convert_joined
from integrum.values.notation import Conversion, Notation
from integrum.values.pipeline import SIGN, convert, tidied
from integrum.values.units import Linear, conversion_to, same_unit

_NUMBER = re.compile(r"(-?[0-9]+)(?:[.,]([0-9]*))?")
# of a value: what is in the table, and what was done
Explained = tuple[str | None, str]
AS_IT_IS = "as written"


@dataclass(frozen=True)
class Binding:
    """Where one column of the table comes from, and what is done to its texts on the way."""

    column: str
    # of its cells, from 0, behind the header those of wide sources; none when the sources lack it. Of
    # several the first that is filled counts.
    positions: tuple[int, ...]
    conversion: Conversion  # from the cell to the table
    # the units of the values: as the source gives them, or else as the plan does for these headers
    units: tuple[str, ...] = ()
    headers: tuple[str, ...] = ()  # the header cells that it is filled from
    # for each position how its values become values of the column's unit; none where nothing is converted
    linears: tuple[Linear | None, ...] = ()
    joined: bool = False  # whether its cells make up one value together
    bad_values: str = "blank"  # what is done with values that are not of its type
    bad_share: float = 1.0  # beyond that share of bad values its source is reported as a whole

    def conversion_at(self, number: int) -> Conversion:
        """What is done to the texts of one of its positions."""
        linear = self.linears[number] if self.linears else None
        return replace(self.conversion, linear=linear) if linear else self.conversion

    @property
    def unit(self) -> str:
        """The first unit that is given."""
        return next(filter(None, self.units), "")


@dataclass(frozen=True)
class Bound:
    """A header compared with the plan."""

    bindings: tuple[Binding, ...]  # one for each column of the table, in their order
    cells: tuple[Cell, ...] = ()  # what becomes of each header cell, in order
    wide: WideCells | None = None  # how rows of a wide source become several; None for others
    problems: tuple[Problem, ...] = ()  # what is to be said about this header; the source is left open
    refused: bool = False  # whether a source with this header is set aside

    @property
    def unlisted(self) -> tuple[tuple[str, int], ...]:
        """The names that are in no column, with their positions."""
        return tuple((cell.name, cell.position) for cell in self.cells if cell.state in (UNLISTED, GUESSED))

    def with_unlisted(self, kept: Sequence[tuple[str, Column]]) -> Bound:
        """The same with columns for headers that no column of the plan claims, by the names of the headers."""
        there = dict(self.unlisted)
        more = [
            Binding(
                column.name,
                (there[name],) if name in there else (),
                conversion(column),
                headers=(name,) if name in there else (),
            )
            for name, column in kept
        ]
        return replace(self, bindings=(*self.bindings, *more))

    def without(self, columns: Collection[str]) -> Bound:
        """The same without some columns of the table; their header cells are left out."""
        cells = tuple(
            replace(cell, state=LEFT_OUT) if cell.column in columns and cell.state == CLAIMED else cell
            for cell in self.cells
        )
        bindings = tuple(one for one in self.bindings if one.column not in columns)
        return replace(self, bindings=bindings, cells=cells)


def bind(header: Header, match_context: MatchContext, marks: tuple[str, str] = (".", "")) -> Bound:
    """Bind the columns of a plan to a header.

    Refused also when no header cell is known to the plan, and when a unit differs from the plan's.

    Parameters
    ----------
    sight
        From where it is looked at: the plan, the group of these sources, and what else the plan says of them.
    marks
        The decimal mark and the mark between thousands in these sources.

    Examples
    --------
    >>> from integrum.plan.plan import Plan
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("loggers")], [Column("day", "date"), Column("depth", "number", unit="m")])
    >>> bound = bind(Header(("Depth", "day"), units=("m", "")), MatchContext(plan, plan.sources[0]))
    >>> [(one.column, one.positions, one.unit) for one in bound.bindings]
    [('day', (1,), ''), ('depth', (0,), 'm')]
    """
    plan, named = match_context.plan, header.named
    places = list(named)
    made = match(list(named.values()), match_context)
    wide = made.wide and _placed(made.wide, places, len(header.names))
    without = match_context.bindings.setdefault(marks, {})
    bindings = []
    for column in plan.table_columns:
        main = match_context.main_columns[column.of] if isinstance(column, Beside) else column
        is_wide = wide is not None and main.name in wide.columns
        if (
            not is_wide and main.name not in made.claims
        ):  # it is the same for all headers that lack the column
            if column.name not in without:
                without[column.name] = _beside(
                    _ruled(_binding(header, main, (), marks, match_context), main, match_context), column
                )
            bindings.append(without[column.name])
            continue
        if wide is not None and is_wide:
            made_one = _wide_binding(header, main, wide, marks, match_context)
        else:
            at = [(places[position], said) for position, said in made.claims[main.name]]
            made_one = _binding(header, main, at, marks, match_context)
        bindings.append(_beside(_ruled(made_one, main, match_context, main.name in made.joined), column))
    cells = tuple(replace(cell, position=places[cell.position]) for cell in made.cells)
    wanted = [column for column in plan.own_columns if column.name not in match_context.group.identifiers]
    unknown = not any(one.positions for one in bindings)
    said = any(problem.severity == "error" for problem in made.problems)
    if wanted and unknown and not said and plan.rules.unlisted != "keep":
        problems = (_not_there(list(named.values())),)
        return Bound(tuple(bindings), cells, wide, problems, refused=True)
    wrong = [
        _unit_differs(column, unit)
        for column, one in zip(plan.table_columns, bindings, strict=True)
        if column.unit and one.units
        for unit in dict.fromkeys(one.units)
        if not _is_convertible(column.unit, unit)
        or (wide and column.name in wide.columns and len(one.units) > 1)
    ]
    return Bound(tuple(bindings), cells, wide, (*made.problems, *wrong), made.refused or bool(wrong))


def conversion(
    column: Column,
    marks: tuple[str, str] = (".", ""),
    group: Sources | None = None,
    unit: str = "",
    places: Collection[str] = (),
) -> Conversion:
    """What is done to the texts of a column.

    `marks`: the decimal mark and the mark between thousands that its numbers are written with; `places`: what `in` may say
    for the sources at hand.
    """
    notation = Notation(
        *marks,
        unit=unit or column.unit,
        percent=column.percent,
        censored=bool(column.censored),
        date_order=column.order_in(places) or (group.date_order if group else ""),
        format=tuple(column.format),
        century_from=column.century_from,
        zoned=bool(column.zone),
    )
    return Conversion(
        column.type,
        _written(column, marks[0]),
        dict(column.swap),
        column.case,
        dict(column.values),
        own=column.read if callable(column.read) else None,
        notation=notation,
        zone=column.zone,
        spelling=column.spelling,
        allowed=tuple(column.allowed),
    )


def _conversion(column: Column, marks: tuple[str, str], unit: str, match_context: MatchContext) -> Conversion:
    """What is done to the texts of a column, made once for all headers that are written in one way."""
    key = (column.name, marks, unit)
    if key not in match_context.conversions:
        match_context.conversions[key] = conversion(
            column, marks, match_context.group, unit, match_context.places
        )
    return match_context.conversions[key]


def _written(column: Column, decimal_mark: str) -> tuple[str, ...]:
    """The missing codes of a column; those of numbers also with the source's decimal mark, and with zeros behind it."""
    if column.type not in ("integer", "number"):
        return tuple(column.missing)
    made: dict[str, None] = dict.fromkeys(column.missing)
    for code in column.missing:
        found = _NUMBER.fullmatch(code.strip())
        if found:
            rest = (found[2] or "").rstrip("0")
            parts = [rest + "0" * zeros for zeros in range(4)]
            made |= {found[1] + (decimal_mark + part if part else ""): None for part in parts}
    return tuple(made)


def _binding(
    header: Header,
    column: Column,
    at: Sequence[tuple[int, str]],
    marks: tuple[str, str],
    match_context: MatchContext,
) -> Binding:
    units = tuple(
        header.unit_at(position)
        or column.unit_of(said, match_context.places)
        or unit_behind(header.names[position], column.unit)
        for position, said in at
    )
    return Binding(
        column.name,
        tuple(position for position, _ in at),
        _conversion(column, marks, _one(units), match_context),
        units,
        tuple(header.names[position] for position, _ in at),
        _linears(column, units),
    )


def _wide_binding(
    header: Header, column: Column, wide: WideCells, marks: tuple[str, str], match_context: MatchContext
) -> Binding:
    cells: list[int] = []
    if column.name in wide.values:
        number = wide.values.index(column.name)
        cells = [row[number] for row in wide.cells if row[number] >= 0]
    units = tuple(dict.fromkeys(header.unit_at(at) for at in cells))
    # the parts of a header are no cells, and are not written with the marks of cells
    how = _conversion(column, marks, _one(units), match_context) if cells else conversion(column)
    names = tuple(header.names[at] for at in cells)
    linears = _linears(column, units[:1])
    return Binding(column.name, (wide.position_of(column.name),), how, units, names, linears)


def _beside(one: Binding, column: Column) -> Binding:
    """The binding of a column that takes what stands beside the values of another one, from that of the other."""
    if not isinstance(column, Beside):
        return one
    how = replace(one.conversion, type="text", take=column.take)
    return replace(one, column=column.name, conversion=how, units=(), linears=())


def _ruled(one: Binding, column: Column, match_context: MatchContext, joined: bool = False) -> Binding:
    """The same with what the plan says of bad values: of the column, or else of its group, or else of all."""
    group, rules = match_context.group, match_context.plan.rules
    shares = (column.bad_share, group.bad_share, rules.bad_share)
    return replace(
        one,
        joined=joined,
        bad_values=column.bad_values or group.bad_values or rules.bad_values,
        bad_share=next(share for share in shares if share is not None),
    )


def _one(units: Sequence[str]) -> str:
    """The unit, where all cells have the same."""
    return units[0] if units and len(set(units)) == 1 else ""


def _is_convertible(wanted: str, given: str) -> bool:
    return not given or same_unit(wanted, given) or conversion_to(wanted, given) is not None


def _linears(column: Column, units: Sequence[str]) -> tuple[Linear | None, ...]:
    """How the values of each cell become values of the column's unit; empty where all of them are already."""
    if not column.unit or all(not unit or same_unit(column.unit, unit) for unit in units):
        return ()
    return tuple(
        None if not unit or same_unit(column.unit, unit) else conversion_to(column.unit, unit)
        for unit in units
    )


def _placed(made: WideCells, places: Sequence[int], width: int) -> WideCells:
    """The same with the positions of the cells in the whole header."""
    cells = tuple(tuple(places[at] if at >= 0 else -1 for at in row) for row in made.cells)
    return replace(made, cells=cells, width=width)


def _not_there(names: Sequence[str]) -> Problem:
    return Problem.of(
        "header-not-found",
        raw=", ".join(clipped(name, 40) for name in names[:8]),
        message="none of its cells is a column of the plan",
        hint="is it a different kind of file, or is its header in another row? integrum survey FILE shows "
        "its layout",
    )


def _unit_differs(column: Column, unit: str) -> Problem:
    return Problem.of(
        "unit-differs",
        column=column.name,
        raw=unit,
        message=f"the plan gives the unit {column.unit}, but the unit of this source cannot be converted to it",
        hint="give it a column of its own, or fix the unit in the plan",
    )


def explain(column: Column, binding: Binding, cells: Sequence[str | None], own: str = "") -> Explained:
    """Convert the cells of one row again, and say what is done to them.

    Parameters
    ----------
    column, binding
        The column of the table, and where its values come from.
    cells
        The cells that it is filled from, as they are written; None where one is empty.
    own
        The name of the analyst's function that reads them, when it may not be run.

    Examples
    --------
    >>> how = Conversion("number", ("n/a",))
    >>> explain(Column("depth", "number"), Binding("depth", (0,), how), ["n/a"])
    (None, '"n/a" is a missing code')
    """
    if own:
        return None, f"read by {own}, which was not run; add --allow-code to run it"
    if binding.joined:
        done, _ = convert_joined([_lone(cell) for cell in cells], binding.conversion)
        said = f"made of {len(cells)} cells"
        return _outcome(done.text[0].as_py(), bool(len(done.bad)), done.said.get(0, ""), column, said)
    at = next((at for at, cell in enumerate(cells) if _is_filled(cell, binding.conversion_at(at))), 0)
    cell, how = cells[at], binding.conversion_at(at)
    if cell is None:
        return None, "empty there"
    if isinstance(column, Beside):
        value = convert(_lone(cell), how).text[0].as_py()
        what = "sign" if column.take == SIGN else "offset"
        return (
            value,
            f"the {what} that stands beside {column.of}"
            if value
            else f"{column.of} does not have a {what} there",
        )
    done = convert(_lone(cell), how)
    if done.missing:
        return None, f'"{cell.strip()}" is a missing code'
    value = done.text[0].as_py()
    said = "; ".join(_steps(column, binding, at, cell, value))
    return _outcome(value, bool(len(done.bad)), done.said.get(0, ""), column, said)


def _outcome(value: str | None, is_bad: bool, why: str, column: Column, said: str) -> Explained:
    if is_bad:
        return None, (why or column.kind.wrong) + ", left empty"
    return value, said


def _lone(cell: str | None) -> pa.Array:
    return texts([cell])


def _is_filled(cell: str | None, how: Conversion) -> bool:
    if cell is None:
        return False
    done = convert(_lone(cell), how)
    return done.text[0].as_py() is not None or bool(len(done.bad))


def _steps(column: Column, binding: Binding, at: int, cell: str, value: str | None) -> list[str]:
    """What changes a value, in the order in which it happens."""
    how, said = binding.conversion_at(at), []
    text = cell
    if how.own:
        said.append("read by a function of your own")
    if how.swap or how.case or how.values:
        neat = tidied(_lone(text), how)[0].as_py()
        if neat != text.strip():
            said.append(f'renamed to "{neat}" by the plan')
        text = neat
    if value == text and not how.linear:
        return said or [AS_IT_IS]
    if value == text.strip() and not how.linear:
        return [*said, "outer spaces removed"]
    said += column.kind.steps(text.strip(), how, column.censored)
    if how.linear and binding.units:
        said.append(f"converted from {binding.units[min(at, len(binding.units) - 1)]} to {column.unit}")
    return said or [f"written in the standard form of the type {column.type}"]
