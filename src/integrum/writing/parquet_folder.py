"""A folder of Parquet files, in the layout that readers of Arrow datasets know; workers write the files."""

from __future__ import annotations

import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path
from urllib.parse import unquote

import pyarrow as pa
from blake3 import blake3

from integrum.columns.outputs import FOLDER, NONE
from integrum.columns.table_schema import TableSchema
from integrum.record.hashing import hash_of
from integrum.sources.own import PART
from integrum.values.arrays import texts
from integrum.writing.output import FILES, Spans
from integrum.writing.part_files import PartRef
from integrum.writing.typed import TypedFile


class ParquetFolder(TypedFile):
    """Takes files that workers have finished, and numbers them."""

    parts = FILES

    def __init__(self, path: Path) -> None:
        super().__init__(path)
        self._contents: dict[str, str] = {}

    def begin(self, schema: TableSchema) -> int:
        """Make the folder."""
        self._path.mkdir()
        self._schema = schema.arrow
        return 0

    def append(self, payload: PartRef, rows: int, spans: Spans = ()) -> None:  # noqa: ARG002
        """Take a file over with the last payload in it."""
        if payload.content:
            name = part_name(len(self._contents) + 1)
            shutil.move(payload.place, self._path / name)
            self._contents[name] = payload.content

    def finish(self) -> None:
        """A table without rows has one file without rows, so that its columns can be told."""
        if not self._contents:
            import pyarrow.parquet as pq

            name = part_name(1)
            names = without_named(self._schema.names, self._path)
            pq.write_table(
                self._schema.empty_table().select(names), str(self._path / name), compression="snappy"
            )
            self._contents[name] = hash_of(self._path / name)

    def content(self) -> str:
        """The content hash of the folder; see `content_of`."""
        return _together(self._contents)

    def discard(self) -> None:
        """Give up."""
        shutil.rmtree(self._path, ignore_errors=True)

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        return pa.Table.from_batches(ParquetFolder.batches(path, schema), schema.arrow)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches; what the names of folders say is a column again."""
        import pyarrow.parquet as pq

        named = dict(named_in(path))
        for part in part_files(path):
            with pq.ParquetFile(str(part)) as file:
                for batch in file.iter_batches():
                    columns = [
                        batch.column(name)
                        if name in batch.schema.names
                        else kind.cast(texts([named.get(name)] * batch.num_rows))
                        for name, kind in zip(schema.names, schema.types, strict=True)
                    ]
                    yield pa.RecordBatch.from_arrays(columns, schema=schema.arrow)


def is_in_folder(place: Path) -> bool:
    """Whether a place is such a folder by its name, or one of the folders below it.

    Examples
    --------
    >>> is_in_folder(Path("out/lakes.parquet/lake=Ambermere")), is_in_folder(Path("out"))
    (True, False)
    """
    return any(part.lower().endswith(FOLDER) for part in place.parts)


def part_name(number: int) -> str:
    """The name of a file in such a folder.

    Examples
    --------
    >>> part_name(12)
    'part-00012.parquet'
    """
    return f"{PART}{number:05}.parquet"


def part_files(folder: Path) -> list[Path]:
    """The files in such a folder, in order."""
    return sorted(
        (path for path in folder.iterdir() if path.name.startswith(PART)),
        key=lambda path: (len(path.name), path.name),
    )


def named_in(place: Path) -> Iterator[tuple[str, str | None]]:
    """What the names of the folders say, in the usual layout of ``name=value``, below a folder ``.parquet``.

    Examples
    --------
    >>> list(named_in(Path("out/lakes.parquet/lake=Upper%20Mere/year=2024")))
    [('lake', 'Upper Mere'), ('year', '2024')]
    """
    parts = place.parts
    begin = max((at for at, part in enumerate(parts) if part.lower().endswith(FOLDER)), default=len(parts))
    for part in parts[begin + 1 :]:
        name, mark, value = part.partition("=")
        if mark:
            yield unquote(name), None if value == NONE else unquote(value)


def content_of(place: Path) -> str:
    """The content hash of an output: of a file, or of a folder that of the lines ``name hash`` of its files, in order."""
    if place.is_dir():
        return _together({path.name: hash_of(path) for path in part_files(place)})
    return hash_of(place)


def _together(contents: dict[str, str]) -> str:
    hasher = blake3()
    for name, content in contents.items():
        hasher.update(f"{name} {content}\n".encode())
    return hasher.hexdigest()


def without_named(names: Sequence[str], place: Path) -> list[str]:
    """The columns that the files of a folder have: all but those that the names of folders say."""
    said = {name for name, _ in named_in(place)}
    return [name for name in names if name not in said]
