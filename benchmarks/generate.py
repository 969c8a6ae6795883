"""Write the benchmark sets: many small files, a few large ones, wide ones, exports of a survey, and workbooks."""

from __future__ import annotations

import random
import sys
from datetime import datetime
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv
import xlsxwriter

SMALL_HEADERS = (
    ("time", "lake", "depth", "water_temp", "oxygen", "ph", "serial", "remark"),
    ("Time", "Lake", "Depth", "Water Temp", "Oxygen", "pH", "Serial", "Remark"),
    ("time", "lake", "serial", "depth", "water_temp", "ph", "oxygen_mgl", "remark"),
)
LARGE_HEADER = ("time", "lake", "logger", "depth", *(f"channel_{number}" for number in range(1, 9)), "flag")
LAKES = ("Ambermere", "Lake Quillon", "Vessel Tarn", "Hollow Water", "Upper Brindle")


def _table(rng: np.random.Generator, rows: int, header: tuple[str, ...], start: int) -> pa.Table:
    first = np.datetime64("2020-01-01T00:00:00") + np.timedelta64(start, "m")
    columns: list[pa.Array] = []
    for name in header:
        plain = name.lower().replace(" ", "_")
        if plain == "time":
            text = np.char.replace(
                np.datetime_as_string(first + np.arange(rows) * np.timedelta64(10, "m")), "T", " "
            )
            columns.append(pa.array(text.tolist()))
        elif plain == "lake":
            columns.append(pa.array(LAKES).take(pa.array(rng.integers(0, len(LAKES), rows))))
        elif plain in ("serial", "logger"):
            columns.append(pa.array(rng.integers(1000, 9999, rows)))
        elif plain == "remark":
            remarks = pa.array(["", "ok", "calm", "ice at the shore", "checked"])
            columns.append(remarks.take(pa.array(rng.integers(0, 5, rows))))
        elif plain == "flag":
            columns.append(pa.array(["true", "false"]).take(pa.array(rng.integers(0, 2, rows))))
        else:
            columns.append(pa.array(np.round(rng.normal(10, 3, rows), 2)))
    return pa.table(columns, names=list(header))


def write_set(folder: Path, files: int, rows: int, headers: tuple[tuple[str, ...], ...], seed: int) -> None:
    """Write `files` CSV files of `rows` rows, their headers in turn."""
    folder.mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng(seed)
    options = pacsv.WriteOptions(quoting_style="none", quoting_header="none")
    for number in range(files):
        table = _table(rng, rows, headers[number % len(headers)], number * rows)
        pacsv.write_csv(table, folder / f"part{number + 1}.csv", options)


def write_workbooks(folder: Path, books: int, sheets: int, rows: int, seed: int) -> None:
    """Write workbooks with real dates and numbers, a header in the first row of each sheet."""
    folder.mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng(seed)
    for number in range(books):
        with xlsxwriter.Workbook(str(folder / f"part{number + 1}.xlsx")) as book:
            form = book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
            for part in range(sheets):
                header = SMALL_HEADERS[part % len(SMALL_HEADERS)]
                table = _table(rng, rows, header, (number * sheets + part) * rows)
                sheet = book.add_worksheet(f"part {part + 1}")
                sheet.write_row(0, 0, header)
                for at, column in enumerate(table.columns):
                    if header[at].lower() == "time":
                        moments = map(datetime.fromisoformat, column.to_pylist())
                        sheet.write_column(1, at, moments, form)
                    else:
                        sheet.write_column(1, at, column.to_pylist())


def write_items(folder: Path, files: int, rows: int, columns: int, of: int, seed: int) -> None:
    """Write files that each have some of many columns, as the yearly files of a register do: numbers, texts, dates, gaps."""
    folder.mkdir(parents=True, exist_ok=True)
    draw = random.Random(seed)
    words = ("calm", "ice", "clear", "green", "wind")
    cells = (
        lambda: str(draw.randint(0, 900)),
        lambda: f"{draw.gauss(10, 3):.2f}",
        lambda: " ".join(draw.choice(words) for _ in range(3)),
        lambda: "",
        lambda: f"2024-{draw.randint(1, 12):02}-{draw.randint(1, 28):02}",
        lambda: f"L{draw.randint(100, 999)}",
        lambda: draw.choice(("low", "mid", "high")),
        lambda: draw.choice(("yes", "no")),
    )
    of_item = [draw.choice(cells) for _ in range(of)]
    for number in range(files):
        have = sorted(draw.sample(range(of), columns))
        lines = [",".join(["station", *(f"item {at} of part {at % 23}" for at in have)])]
        lines += [
            ",".join([f"S{number:04}-{row}", *("" if draw.random() < 0.05 else of_item[at]() for at in have)])
            for row in range(rows)
        ]
        (folder / f"part{number + 1:04}.csv").write_text("\n".join(lines) + "\n")


def write_huge(folder: Path, files: int) -> None:
    """Write files like those of the large set, 137 MB each: the same rows with other seconds, so that all differ."""
    folder.mkdir(parents=True, exist_ok=True)
    if not (folder / "part1.csv").exists():
        write_set(folder, 1, 1_500_000, (LARGE_HEADER,), 4)
    data = (folder / "part1.csv").read_bytes()
    for number in range(2, files + 1):
        place, (more, seconds) = folder / f"part{number}.csv", divmod(number - 1, 60)
        if not place.exists():
            other = data.replace(b":00,", f":{seconds:02},".encode())
            place.write_bytes(other.replace(b"Quillon", b"Brindle") if more else other)


def write_names(folder: Path, files: int) -> None:
    """Write many small files, 1,000 in each folder."""
    for number in range(files):
        lake, logger = divmod(number, 1000)
        place = folder / f"lake_{lake}"
        if not logger:
            place.mkdir(parents=True, exist_ok=True)
        (place / f"logger_{logger}.csv").write_text(f"day,depth\n2024-05-01,{lake}\n2024-05-02,{logger}\n")


def write_wide(folder: Path, files: int, columns: int) -> None:
    """Write files of many columns and two rows."""
    folder.mkdir(parents=True, exist_ok=True)
    header = ",".join(["day", *(f"c{number}" for number in range(1, columns))])
    cells = ",".join(str(number % 10) for number in range(1, columns))
    for number in range(files):
        rows = f"2024-05-01,{cells}\n2024-05-02,{number}{cells[1:]}\n"
        (folder / f"part{number + 1}.csv").write_text(f"{header}\n{rows}")


def write_faults(folder: Path, files: int, columns: int) -> None:
    """Write files in which each column of numbers has a cell that is none."""
    folder.mkdir(parents=True, exist_ok=True)
    header = ",".join(["day", *(f"c{number}" for number in range(columns))])
    bad = ",".join(["n/a?"] * columns)
    for number in range(files):
        good = ",".join([str(number)] * columns)
        text = f"{header}\n2024-05-01,{bad}\n2024-05-02,{good}\n"
        (folder / f"part{number + 1}.csv").write_text(text)


def write_long_sheet(place: Path, rows: int) -> None:
    """Write a workbook with one long sheet."""
    place.parent.mkdir(parents=True, exist_ok=True)
    with xlsxwriter.Workbook(str(place), {"constant_memory": True}) as book:
        sheet = book.add_worksheet("long")
        sheet.write_row(0, 0, ["depth", "water_temp", "oxygen", "remark"])
        for row in range(1, rows + 1):
            sheet.write_row(row, 0, [row / 100, row % 30, row % 14, "calm" if row % 3 else "ice"])


def generate(root: Path) -> None:
    """Write the sets below `root`, unless they are there."""
    if not (root / "small").exists():
        write_set(root / "small", 1000, 1000, SMALL_HEADERS, 1)
    if not (root / "large").exists():
        write_set(root / "large", 4, 1_500_000, (LARGE_HEADER,), 2)
    if not (root / "workbooks").exists():
        write_workbooks(root / "workbooks", 40, 3, 2_000, 3)
    if not (root / "sheets").exists():
        write_workbooks(root / "sheets", 100, 10, 100, 5)
    if not (root / "register").exists():
        write_items(root / "register", 67, 30, 402, 1_149, 6)
    if not (root / "exports").exists():
        write_items(root / "exports", 2_000, 20, 59, 59, 7)
    if not (root / "two").exists():
        (root / "two").mkdir()
        for day in (1, 2):
            (root / "two" / f"{day}.csv").write_text(f"day,depth\n2024-05-0{day},3.5\n")


if __name__ == "__main__":
    if len(sys.argv) != 2 or sys.argv[1].startswith("-"):
        raise SystemExit("usage: generate.py FOLDER: writes 600 MB of made-up data into it")
    generate(Path(sys.argv[1]))
