"""Rows of an output: by their numbers, or by a condition such as `village == 'Brod'`."""

from __future__ import annotations

import ast
import operator
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.table_schema import TableSchema
from integrum.errors import ConditionError, OutputError
from integrum.plan.wrong_words import nearest
from integrum.publish.write import WrittenOutput
from integrum.results.read import Record
from integrum.values.arrays import ints, texts
from integrum.writing.formats import format_of

_BRACED = re.compile(r"\{([^{}]*)\}")
_COMPARISONS: dict[type, Callable[[Any, Any], Any]] = {
    ast.Eq: operator.eq,
    ast.NotEq: operator.ne,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
}
_HELP = "such as: water_temp > 40 and lake == 'Ambermere'; comparisons are ==, !=, <, <=, >, >=, in, is None"
_NUMBER = "\0row"


@dataclass(frozen=True)
class Condition:
    """A condition on the rows of a table."""

    expression: pc.Expression
    columns: tuple[str, ...]  # the columns in it, in order


def condition(text: str, schema: TableSchema) -> Condition:
    """Understand a condition.

    Raises ConditionError: naming what cannot be understood.

    `text`: comparisons (``==``, ``!=``, ``<``, ``<=``, ``>``, ``>=``, ``in``, ``is None``) of columns with values,
    joined by ``and``, ``or``, ``not``. A column whose name is more than letters, digits and underscores stands in
    braces: ``{Temp (°C)} > 40``. Dates and times are texts in ISO 8601. An empty cell is not equal to any value, and
    neither less nor greater.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> from integrum.plan.rules import Provenance
    >>> table = pa.table({"lake": ["a", "b"], "Temp (°C)": [7.5, 41.0]})
    >>> columns = [Column("lake"), Column("Temp (°C)", "number")]
    >>> schema = TableSchema(columns, Provenance(False, False, False))
    >>> made = condition("{Temp (°C)} > 40 and lake != 'a'", schema)
    >>> table.filter(made.expression)["lake"].to_pylist(), made.columns
    (['b'], ('Temp (°C)', 'lake'))
    """
    try:
        return _understood(text, schema)
    except ConditionError as error:
        if better := _mended(text, schema):
            raise ConditionError(f'"{text}" is not a condition on rows; write: {better}') from error
        raise


def _understood(text: str, schema: TableSchema) -> Condition:
    reader = _Reader(schema)
    names: list[str] = []

    def placed(found: re.Match[str]) -> str:
        names.append(found[1])
        return f" _braced_{len(names) - 1}_ "

    try:
        tree = ast.parse(_BRACED.sub(placed, text).strip(), mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise ConditionError(f'"{text}" is not a condition on rows, {_HELP}') from error
    reader.braced = {f"_braced_{at}_": name for at, name in enumerate(names)}
    try:
        return Condition(reader.truth(tree.body), tuple(dict.fromkeys(reader.columns)))
    except RecursionError as error:
        raise ConditionError("the condition is nested too deeply") from error


# what people write in other languages, and how it is written here
_ELSEWHERE = (
    (r"(?<![=!<>])=(?!=)", "=="),
    (r"<>", "!="),
    (r"&&?", " and "),
    (r"\|\|?", " or "),
    (r"!(?!=)", " not "),
    (r"\b(AND|OR|NOT|IN|IS)\b", lambda found: found[0].lower()),
    (r"\b(?i:null|na|nan|none)\b", "None"),
    (r"==\s*None\b", "is None"),
    (r"!=\s*None\b", "is not None"),
    (r"\b(\w+)\s+(?i:between)\s+(\S+)\s+and\s+(\S+)", r"\2 <= \1 <= \3"),
)
_COMMA = re.compile(r"(?<=\d),(?=\d)")
_UNQUOTED = re.compile(r"([=!]=\s*)([^\W\d]\w*)")


def _mended(text: str, schema: TableSchema) -> str:
    """What was likely meant, where that is a condition; else an empty text."""

    def quoted(found: re.Match[str]) -> str:
        is_known = found[2] in (*schema.names, "None", "True", "False")
        return found[0] if is_known else f"{found[1]}'{found[2]}'"

    # quoted texts and names in braces stay as they are
    parts = re.split(r"""('[^']*'|"[^"]*"|\{[^{}]*\})""", text.strip())
    odd = [name for name in schema.names if not name.isidentifier()]
    named = re.compile("|".join(map(re.escape, sorted(odd, key=len, reverse=True))) or r"(?!)")
    for at in range(0, len(parts), 2):
        for pattern, right in _ELSEWHERE:
            parts[at] = re.sub(pattern, right, parts[at])
        parts[at] = named.sub(lambda found: f"{{{found[0]}}}", parts[at])
        parts[at] = _UNQUOTED.sub(quoted, parts[at])
        if "[" not in text and "(" not in text:
            parts[at] = _COMMA.sub(".", parts[at])
    mended = re.sub(r" {2,}", " ", "".join(parts)).strip()
    if mended == text.strip():
        return ""
    try:
        _understood(mended, schema)
    except ConditionError:
        return ""
    return mended


def _filled(whole: Any, *names: str) -> Any:
    """A comparison that is false where a cell is empty."""
    for name in names:
        whole = whole & pc.field(name).is_valid()
    return whole


def _two_valued(compare: Callable[[Any, Any], Any], one: Any, two: Any, *names: str) -> Any:
    """A comparison that is true or false: an empty cell is not a value, and so not equal to any."""
    if compare is operator.ne:
        return ~_filled(one == two, *names)
    return _filled(compare(one, two), *names)


@dataclass
class _Reader:
    schema: TableSchema
    braced: dict[str, str] = field(default_factory=dict)
    columns: list[str] = field(default_factory=list)

    def truth(self, node: ast.expr) -> Any:
        """An expression that is true or false."""
        if isinstance(node, ast.BoolOp):
            join = operator.and_ if isinstance(node.op, ast.And) else operator.or_
            whole = self.truth(node.values[0])
            for one in node.values[1:]:
                whole = join(whole, self.truth(one))
            return whole
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            return ~self.truth(node.operand)
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            whole = None
            for at, kind in enumerate(node.ops):
                one = self._compared(kind, sides[at], sides[at + 1])
                whole = one if whole is None else whole & one
            return whole
        if isinstance(node, ast.Name):
            name = self._name(node)
            if pa.types.is_boolean(self.schema.arrow.field(name).type):
                return pc.field(name)
        raise ConditionError(f'"{self._said(node)}" is not a comparison; write one {_HELP}')

    def _compared(self, kind: ast.cmpop, left: ast.expr, right: ast.expr) -> Any:
        if isinstance(kind, (ast.Is, ast.IsNot)):
            if not (isinstance(right, ast.Constant) and right.value is None):
                raise ConditionError(f'"is" can only be used with None: {self._said(left)} is None')
            empty = pc.field(self._name(left)).is_null()
            return empty if isinstance(kind, ast.Is) else ~empty
        if isinstance(kind, (ast.In, ast.NotIn)):
            name = self._name(left)
            if not isinstance(right, (ast.List, ast.Tuple, ast.Set)):
                some = f"[{self._said(right)}]" if isinstance(right, ast.Constant) else "[1, 2]"
                raise ConditionError(f'"in" needs a list: {name} in {some}')
            values = [self._value(one, name) for one in right.elts]
            whole = pc.field(name).is_null() & ~pc.field(name).is_null()
            for value in values:
                whole = whole | (_filled(self._field(name, value) == value, name))
            return whole if isinstance(kind, ast.In) else ~whole
        compare = _COMPARISONS[type(kind)]
        if isinstance(left, ast.Name) and isinstance(right, ast.Name):
            one = self._name(left)
            if right.id not in (*self.schema.names, *self.braced):
                raise ConditionError(
                    f'the table has no column "{right.id}"{nearest(right.id, self.schema.names)}; '
                    f"a text stands in quotes: '{right.id}'"
                )
            two = self._name(right)
            if self.schema.arrow.field(one).type != self.schema.arrow.field(two).type:
                raise ConditionError(f'"{one}" and "{two}" are of different types')
            return _two_valued(compare, pc.field(one), pc.field(two), one, two)
        if isinstance(left, ast.Name):
            name = self._name(left)
            value = self._value(right, name)
            return _two_valued(compare, self._field(name, value), value, name)
        if isinstance(right, ast.Name):
            name = self._name(right)
            value = self._value(left, name)
            return _two_valued(compare, value, self._field(name, value), name)
        raise ConditionError(f'"{self._said(left)}" is not compared with a column')

    def _name(self, node: ast.expr) -> str:
        if not isinstance(node, ast.Name):
            raise ConditionError(f'expected the name of a column, got "{self._said(node)}"')
        name = self.braced.get(node.id, node.id)
        if name not in self.schema.names:
            raise ConditionError(f'the table has no column "{name}"{nearest(name, self.schema.names)}')
        self.columns.append(name)
        return name

    def _field(self, name: str, value: pa.Scalar) -> Any:
        """A column as it is compared with a value: whole numbers with a part of one."""
        is_part = value.type == pa.float64() != self.schema.arrow.field(name).type
        return pc.field(name).cast(pa.float64(), safe=False) if is_part else pc.field(name)

    def _value(self, node: ast.expr, name: str) -> pa.Scalar:
        """A value as one of the type of a column."""
        negative = isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd))
        inner = node.operand if isinstance(node, ast.UnaryOp) and negative else node
        if not isinstance(inner, ast.Constant) or isinstance(inner.value, (bytes, complex, type(...))):
            raise ConditionError(f'expected a number or a text in quotes, got "{self._said(node)}"')
        value, kind = inner.value, self.schema.type_of(name)
        if value is None:
            raise ConditionError(f"write {name} is None, or {name} is not None")
        is_number = isinstance(value, (int, float)) and not isinstance(value, bool)
        minus = isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub)
        said = str(value).lower() if isinstance(value, bool) else f"{'-' if minus else ''}{value}"
        if negative and not is_number:
            raise ConditionError(f'expected a number after the sign, got "{self._said(node)}"')
        if kind.is_number and not is_number:
            raise ConditionError(f'"{name}" is a column of numbers; write {name} == 7.2 without quotes')
        if kind.name == "text" and is_number:
            raise ConditionError(f'"{name}" is a column of texts; write the value in quotes: "{said}"')
        arrow = self.schema.arrow.field(name).type
        try:
            if arrow == kind.arrow and (canonical := kind.parse(said)) is not None:
                return kind.cast(texts([canonical]))[0]
            return pc.cast(texts([said]), pa.float64() if kind.is_number else arrow)[0]
        except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
            raise ConditionError(f'"{said}" is not a {kind.name}, as "{name}" is') from None

    def _said(self, node: ast.expr) -> str:
        said = ast.unparse(node)
        for placed, name in self.braced.items():
            said = said.replace(placed, f"{{{name}}}")
        return said


@dataclass(frozen=True)
class TableRow:
    """A row of an output."""

    number: int  # its number, from 1
    values: dict[str, Any]


def some_rows(record: Record, output: WrittenOutput, numbers: Iterable[int]) -> list[TableRow]:
    """Rows by their numbers, in the order in which they were asked for.

    Raises OutputError when there is no such row, or the output cannot be read.
    """
    wanted = list(numbers)
    found: dict[int, TableRow] = {}
    most = max(wanted, default=0)
    for before, batch in _batches(record, output):
        here = [number for number in set(wanted) if before < number <= before + batch.num_rows]
        for number in here:
            found[number] = TableRow(number, batch.slice(number - before - 1, 1).to_pylist()[0])
        if before + batch.num_rows >= most:
            break
    absent = [number for number in wanted if number not in found]
    if absent:
        raise OutputError(
            f"{output.path} does not have a row {absent[0]:,}; it has {output.rows:,}, counted from 1"
        )
    return [found[number] for number in wanted]


def rows_that_fit(
    record: Record, output: WrittenOutput, where: Condition, most: int
) -> tuple[list[TableRow], int]:
    """The first rows that fit a condition, and how many there are in all."""
    found: list[TableRow] = []
    count = 0
    for before, batch in _batches(record, output):
        table = pa.Table.from_batches([batch])
        numbers = ints(np.arange(before + 1, before + batch.num_rows + 1))
        fits = table.append_column(_NUMBER, numbers).filter(where.expression)
        count += len(fits)
        if len(found) < most:
            for values in fits.slice(0, most - len(found)).to_pylist():
                number = values.pop(_NUMBER)
                found.append(TableRow(number, values))
    return found, count


def _batches(record: Record, output: WrittenOutput) -> Iterator[tuple[int, pa.RecordBatch]]:
    """The batches of an output, each with the number of rows before it."""
    before = 0
    try:
        for batch in format_of(output.path).batches(output.path, record.table_schema, record.is_guarded):
            if batch.num_rows:
                yield before, batch
            before += batch.num_rows
    except (OSError, pa.ArrowInvalid, ValueError, KeyError) as error:
        raise OutputError(f"{output.path} cannot be read as the run left it: {error}") from error
