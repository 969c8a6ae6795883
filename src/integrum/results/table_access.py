"""A table for other libraries: as a whole, in batches, as a data frame, or by the protocols that they share."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal, get_args

import pyarrow as pa
import pyarrow.compute as pc

from integrum.errors import OutputError, check_extra
from integrum.plan.wrong_words import meant, nearest
from integrum.values.arrays import texts

if TYPE_CHECKING:
    import pandas

# up to here a number of 64 bits holds every integer
_EXACT = 2**53
FrameTypes = Literal["usual", "nullable", "arrow", "plain"]


class TableAccess:
    """A table with a `schema`, a `table` and `batches`; the rest comes of these."""

    @property
    def _columns(self) -> pa.Schema:
        raise NotImplementedError

    @property
    def table(self) -> pa.Table:
        """The table, as a whole in memory."""
        raise NotImplementedError

    def batches(self) -> Iterator[pa.RecordBatch]:
        """The table in batches of rows, so that no more than some of it is in memory."""
        raise NotImplementedError

    def _orders(self) -> Mapping[str, Sequence[str]]:
        """By column, the order of its values, where the plan says which are allowed."""
        return {}

    def to_pandas(
        self,
        types: FrameTypes = "usual",
        *,
        as_categories: bool | Collection[str] = False,
        dates_with_time: bool = False,
    ) -> pandas.DataFrame:
        """The table as a pandas data frame.

        Parameters
        ----------
        types
            ``"usual"``: integers and booleans stay such where cells are empty, all else is as pandas has it.
            ``"nullable"``: also numbers and texts are of types that know empty cells. ``"arrow"``: all columns stay Arrow
            arrays. ``"plain"``: NumPy types only; integers with empty cells become numbers, if these can hold them.
        as_categories
            Names of text columns that shall be categorical; or True: all in which each value is there twice or more, on
            average. Categories are in the order of `allowed` in the plan, or else in that of the alphabet.
        dates_with_time
            Whether dates become times at midnight, which pandas can reckon with; otherwise they are dates of Python
            (with ``"arrow"``: dates of Arrow).

        Returns
        -------
        pandas.DataFrame

        Raises
        ------
        OutputError
            When there is no such type or text column, or a plain number could not hold an integer exactly.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\nAmbermere,n/a\\n")
        >>> outcome = ig.assemble(folder)
        >>> frame = outcome.to_pandas("nullable", as_categories=["lake"])
        >>> [str(kind) for kind in frame.dtypes]
        ['string', 'Int64', 'category', 'Float64']
        """
        check_extra("a data frame", "pandas", "pandas")
        import pandas

        if types not in get_args(FrameTypes):
            known = ", ".join(f'"{one}"' for one in get_args(FrameTypes))
            raise OutputError(
                f'types: expected one of {known}, got "{types}"{meant(str(types), get_args(FrameTypes))}'
            )
        table = self.table
        if types == "plain":
            _check_exact(table)
        wanted = self._categorical(table, as_categories)
        for name in wanted:
            at = table.schema.names.index(name)
            table = table.set_column(at, name, _encoded(table.column(at), self._orders().get(name, ())))
        if dates_with_time:
            for at, field in enumerate(table.schema):
                if pa.types.is_date(field.type):
                    table = table.set_column(at, field.name, pc.cast(table.column(at), pa.timestamp("s")))
        whole = {pa.int64(): pandas.Int64Dtype(), pa.bool_(): pandas.BooleanDtype()}
        if types == "nullable":
            whole |= {pa.float64(): pandas.Float64Dtype(), pa.string(): pandas.StringDtype()}

        def mapped(kind: pa.DataType) -> Any:
            if pa.types.is_dictionary(kind):
                return None
            if types == "arrow":
                return pandas.ArrowDtype(kind)
            return None if types == "plain" else whole.get(kind)

        return table.to_pandas(types_mapper=mapped)

    def _categorical(self, table: pa.Table, wanted: bool | Collection[str]) -> list[str]:
        """The columns that shall be categorical."""
        are_texts = [field.name for field in table.schema if pa.types.is_string(field.type)]
        if isinstance(wanted, bool):
            return [name for name in are_texts if wanted and _repeats(table.column(name))]
        names = [wanted] if isinstance(wanted, str) else list(wanted)
        for name in names:
            if name not in are_texts:
                raise OutputError(
                    f'as_categories: the table has no text column "{name}"{nearest(name, are_texts)}'
                )
        return names

    def __arrow_c_schema__(self) -> Any:
        """The columns by the Arrow C data interface."""
        return self._columns.__arrow_c_schema__()

    def __arrow_c_stream__(self, requested_schema: Any = None) -> Any:
        """The table by the Arrow C stream protocol, batch by batch."""
        reader = pa.RecordBatchReader.from_batches(self._columns, self.batches())
        return reader.__arrow_c_stream__(requested_schema)

    def __dataframe__(self, nan_as_null: bool = False, allow_copy: bool = True) -> Any:
        """The table by the data frame interchange protocol of the consortium for Python data API standards."""
        return self.table.__dataframe__(nan_as_null, allow_copy)


def _check_exact(table: pa.Table) -> None:
    """Refuse integers beside empty cells that a number of 64 bits would round."""
    for field, column in zip(table.schema, table.columns, strict=True):
        if pa.types.is_integer(field.type) and 0 < column.null_count < len(column):
            ends = pc.min_max(column).as_py()
            if max(abs(ends["min"]), abs(ends["max"])) > _EXACT:
                raise OutputError(
                    f'types: the column "{field.name}" has empty cells, and integers that a plain number cannot hold; use '
                    '"usual" or "nullable"'
                )


def _repeats(column: pa.ChunkedArray) -> bool:
    """Whether each value is there twice or more, on average."""
    return bool(pc.count_distinct(column, "only_valid").as_py() * 2 <= len(column) - column.null_count)


def _encoded(column: pa.ChunkedArray, order: Sequence[str]) -> pa.ChunkedArray:
    """A column of texts as one of categories, in an order."""
    found = set(pc.unique(column).to_pylist()) - {None}
    known = texts([*dict.fromkeys(order), *sorted(found - set(order))])
    parts = [pa.DictionaryArray.from_arrays(pc.index_in(part, known), known) for part in column.chunks]
    return pa.chunked_array(parts, pa.dictionary(pa.int32(), pa.string()))
