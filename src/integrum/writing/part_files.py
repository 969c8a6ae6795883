"""Part files: what workers have made of some rows, in files that the run puts together, so that no rows are sent."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from types import TracebackType
from typing import Any, Self

import pyarrow as pa

from integrum.record.hashing import hash_of
from integrum.writing.output import BATCHES, BYTES, FILES
from integrum.writing.parts import csv_part

_SUFFIX = {BYTES: ".part", BATCHES: ".arrow", FILES: ".parquet"}
# a finished file is closed when this much of Arrow's memory is in it
_FULL = 512 << 20


@dataclass
class PartRef:
    """Where a payload lies."""

    place: Path
    # offsets of its bytes; of a file of batches its number and the next one
    start: int
    end: int
    content: str = ""  # the hash of a finished file, in its last payload
    rows: int = 0  # rows of a finished file, in its last payload


class PartFiles:
    """The part files that one task writes, one for each output.

    Parameters
    ----------
    folder
        Where they go; it has to be there.
    kind
        How the output takes them: one of `BYTES`, `BATCHES`, `FILES`.
    """

    def __init__(self, folder: Path, kind: str, columns: Mapping[str, Sequence[str]]) -> None:
        self._folder, self._kind, self._columns = folder, kind, columns
        self._files: dict[str, _File] = {}

    def __enter__(self) -> Self:
        return self

    def add(self, output: str, payload: Any, rows: int) -> PartRef | None:
        """Write a payload; gives where it lies, or None where there is nothing in it."""
        if not rows:
            return None
        file = self._files.get(output)
        if file is not None and file.size > _FULL and self._kind == FILES:
            file.close()
            file = None
        if file is None:
            place = self._folder / f"{os.urandom(12).hex()}{_SUFFIX[self._kind]}"
            file = self._files[output] = _KINDS[self._kind](place, self._columns.get(output))
        return file.add(payload, rows)

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for file in self._files.values():
            try:
                file.close()
            except Exception:
                if error is None:
                    raise


class _File:
    """A file that payloads go to."""

    def __init__(self, place: Path, columns: Sequence[str] | None) -> None:
        self.place, self.columns, self.size = place, columns, 0

    def add(self, payload: Any, rows: int) -> PartRef:
        raise NotImplementedError

    def close(self) -> None:
        raise NotImplementedError


class _Bytes(_File):
    def __init__(self, place: Path, columns: Sequence[str] | None) -> None:
        super().__init__(place, columns)
        self._file = open(place, "xb")  # noqa: SIM115

    def add(self, payload: Any, rows: int) -> PartRef:  # noqa: ARG002
        start = self.size
        self._file.write(payload)
        self.size += len(payload)
        return PartRef(self.place, start, self.size)

    def close(self) -> None:
        self._file.close()


class _Batches(_File):
    _writer: Any = None

    def add(self, payload: pa.RecordBatch, rows: int) -> PartRef:  # noqa: ARG002
        if self._writer is None:
            self._writer = pa.ipc.new_file(str(self.place), payload.schema)
        self._writer.write_batch(payload)
        self.size += 1
        return PartRef(self.place, self.size - 1, self.size)

    def close(self) -> None:
        if self._writer is not None:
            self._writer.close()


class _Finished(_File):
    _output: Any = None
    _last: PartRef | None = None
    _rows = 0

    def add(self, payload: pa.RecordBatch, rows: int) -> PartRef:
        from integrum.writing.typed import ParquetOutput

        batch = payload.select(list(self.columns)) if self.columns is not None else payload
        if self._output is None:
            self._output = ParquetOutput(self.place)
            self._output.open(batch.schema)
        self._output.append(batch, rows)
        self.size += batch.nbytes
        self._rows += rows
        self._last = PartRef(self.place, 0, 0)
        return self._last

    def close(self) -> None:
        if self._output is not None and self._last is not None:
            self._output.finish()
            self._last.content, self._last.rows, self._last.end = (
                hash_of(self.place),
                self._rows,
                self.place.stat().st_size,
            )
            self._output = None


_KINDS: dict[str, type[_File]] = {BYTES: _Bytes, BATCHES: _Batches, FILES: _Finished}


def payload_of(ref: PartRef, kind: str) -> Any:
    """What lies in a part: bytes, or a batch.

    Raises OSError when the file is not there, or ends before.
    """
    if kind == BYTES:
        data = csv_part(ref.place, ref.start, ref.end)
        if len(data) != ref.end - ref.start:
            raise OSError(f"{ref.place} is shorter than its worker has left it")
        return data
    return _opened(ref.place).get_batch(ref.start)


@lru_cache(2)
def _opened(place: Path) -> Any:
    return pa.ipc.open_file(pa.memory_map(str(place)))


def forget_parts() -> None:
    """Let go of the files that are open."""
    _opened.cache_clear()


def remove_folder(folder: Path) -> None:
    """Remove a folder of part files, also where a worker that is told to stop still writes one."""
    for _ in range(_TRIES):
        shutil.rmtree(folder, ignore_errors=True)
        if not folder.exists():
            return
        time.sleep(0.05)


# a worker that finds its folder gone does not write another file
_TRIES = 40


def remove(place: Path) -> None:
    """Remove a part file that is no longer wanted."""
    with suppress(OSError):
        place.unlink()
