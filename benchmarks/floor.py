"""The bare floor: read each file as text columns and write them again as lines, with the source before each; no checks.

What any program has to do at least on these files. It uses as many threads as there are cores, and the same libraries.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pyarrow as pa
import pyarrow.csv as pacsv

BLOCK = 8 << 20


def pieces(folder: Path) -> Iterator[tuple[str, bytes, bytes]]:
    """The name, the header and some whole lines of each file; small files in one."""
    for path in sorted(folder.glob("*.csv")):
        with open(path, "rb") as file:
            header = file.readline()
            rest = b""
            while data := file.read(BLOCK):
                data = rest + data
                end = data.rfind(b"\n") + 1
                rest = data[end:]
                yield path.name, header, data[:end]


def digest(piece: tuple[str, bytes, bytes]) -> pa.Buffer:
    """Parse and write one piece."""
    name, header, data = piece
    names = header.decode().strip().split(",")
    table = pacsv.read_csv(
        pa.BufferReader(data),
        read_options=pacsv.ReadOptions(use_threads=False, block_size=len(data) + 1, column_names=names),
        convert_options=pacsv.ConvertOptions(column_types=dict.fromkeys(names, pa.string())),
    )
    table = table.add_column(0, "source", pa.repeat(name, len(table)))
    sink = pa.BufferOutputStream()
    pacsv.write_csv(
        table, sink, pacsv.WriteOptions(include_header=False, quoting_style="none", batch_size=1 << 17)
    )
    return sink.getvalue()


if __name__ == "__main__":
    workers = os.cpu_count() or 1
    with open(sys.argv[2], "wb") as output, ThreadPoolExecutor(workers) as pool:
        waiting = []
        for piece in pieces(Path(sys.argv[1])):
            waiting.append(pool.submit(digest, piece))
            if len(waiting) > workers:
                output.write(waiting.pop(0).result())
        for each in waiting:
            output.write(each.result())
