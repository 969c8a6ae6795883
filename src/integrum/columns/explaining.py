"""What a plan does to one value on its way from the cell to the table, in words."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow as pa

from integrum.arrow.arrays import texts
from integrum.columns.binding import Binding
from integrum.plan.column import Beside, Column
from integrum.values.joining import convert_joined
from integrum.values.manner import Conversion
from integrum.values.pipeline import SIGN, convert, tidied

# of a value: what is in the table, and what was done
Explained = tuple[str | None, str]
AS_IT_IS = "as written"


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
