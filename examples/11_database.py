"""A table as a database: which file a row is from, and what was found there, are queries."""

import sqlite3
import sys
from contextlib import closing
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
outcome = ig.assemble(folder / "loggers", to=folder / "loggers.sqlite")
print(outcome)

with closing(sqlite3.connect(folder / "loggers.sqlite")) as base:
    print("the warmest readings, and their files")
    query = """
        SELECT data.date_time, data.water_temp, sources.source, data.source_row
        FROM data JOIN sources ON sources.id = data.source_id
        ORDER BY data.water_temp DESC LIMIT 3
    """
    for row in base.execute(query):
        print(*row, sep="  ")
    print("files with the most empty cells")
    query = """
        SELECT sources.source, sum(column_values.empty) AS cells
        FROM column_values JOIN sources ON sources.id = column_values.source_id
        GROUP BY sources.id ORDER BY cells DESC, sources.id LIMIT 3
    """
    for row in base.execute(query):
        print(*row, sep="  ")
