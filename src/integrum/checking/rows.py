"""What a check sees: some rows of the table, and where they come from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats, Ints, texts, wholes
from integrum.columns.typed import as_numbers, as_texts
from integrum.plan.column import Column
from integrum.values.sketch import numbers_of


@dataclass(frozen=True)
class TableRows:
    """Some rows of the table, source by source."""

    columns: Mapping[str, pa.Array]  # the columns by name: canonical texts, or Arrow types
    about: Mapping[str, Column]  # what the plan says of them; those of provenance are not there
    # the number of the source of each row, and its row there
    source: Ints
    row: Ints

    def numbers(self, name: str) -> Floats:
        """A column of numbers, dates or times as numbers; those of times are microseconds, NaN where a cell is empty."""
        array = self.columns[name]
        numbers = numbers_of(as_numbers(array, self.about[name]) if pa.types.is_string(array.type) else array)
        assert numbers is not None
        return numbers

    def texts(self, name: str) -> pa.Array:
        """A column as texts that are the same for the same value, whatever the output takes."""
        array, about = self.columns[name], self.about.get(name)
        if about is None:
            return array if pa.types.is_string(array.type) else pc.cast(array, pa.string())
        return as_texts(array, about)

    def codes(self, name: str) -> tuple[Ints, list[str]]:
        """A column as numbers into a list of its distinct values as texts; -1 where a cell is empty."""
        found = self.texts(name).dictionary_encode()
        return wholes(found.indices), found.dictionary.to_pylist()

    def wanted(self, name: str, values: Sequence[str]) -> pa.Array:
        """Values that a plan or a list names, as the same texts; what is not of the column's type stays as it is."""
        about = self.about.get(name)
        if about is None or about.type == "text":
            return texts(list(values))
        parsed = [about.kind.parse(value.strip()) for value in values]
        good = as_texts(texts([one for one in parsed if one is not None]), about)
        others = [value for value, one in zip(values, parsed, strict=True) if one is None]
        return pa.concat_arrays([good, texts(others)])

    def groups(self, names: tuple[str, ...]) -> tuple[Ints, list[tuple[str, ...]]]:
        """The rows as numbers into a list of the distinct combinations of values; an empty cell is an empty text."""
        coded = [self.codes(name) for name in names]
        whole = np.zeros(len(self.row), np.int64)
        for codes, values in coded:
            whole = whole * (len(values) + 1) + codes + 1
        distinct, first, groups = np.unique(whole, return_index=True, return_inverse=True)
        said = [
            tuple(values[codes[at]] if codes[at] >= 0 else "" for codes, values in coded)
            for at in first.tolist()
        ]
        return groups.reshape(-1), said[: len(distinct)]
