"""Write the demo data: loggers in lakes, field visits, laboratory results. All invented, and seeded."""

from __future__ import annotations

import random
from datetime import date, timedelta
from pathlib import Path

from integrum.demo.gauges import write_gauges
from integrum.demo.loggers import LAKES, NEXT_MONTH, write_loggers, write_next_month, write_rows
from integrum.demo.workbooks import write_field_visits
from integrum.errors import OutputError

SEED = 20_26
YEARS = (2021, 2022, 2023, 2024)
_MARK = "about-this-data.txt"
_ABOUT = """Made-up data of invented lakes, written by `integrum demo`. Nothing here is real.

loggers/   a folder for each lake, a file for each month from a logger moored there: LAKE_MONTH_SERIAL.csv.
           As in real folders, one name does not fit, one month is missing, one file is a duplicate, one is in
           a zip archive, one is compressed, one was glued together from two downloads, and there are a lock
           file and a picture. The loggers of Brindlemere write a preamble, units, semicolons and decimal commas
           (Windows-1252); the logger of Vessel Lake writes tabs in UTF-16.
visits/    a file for each year of field visits
field/     a workbook for each lake, a sheet for each month: a merged title, a header of two rows that begins in
           column B, means below, a cover and a hidden sheet. One number is stored as text, one cell is an error.
lab/       a file for each batch of laboratory results, with totals and notes below the table. Its columns are
           renamed in batches 5 and 9. turb_filtered is not a new name of turbidity: batch 8 has both.
gauges/    water levels and outflows, read by five observers. Dates: day first, with month names, with two digits
           for the year. Numbers: decimal commas, spaces between thousands. Times: a 12-hour clock. Units: in
           headers (m, cm) and after values. Also yes, ja, Y and true; codes with leading zeros; "n/a", "-" and
           -999 for "no value"; "<1200" below what can be measured; "Reed" and "open wather" among the shores.
           In Hollow Water the level is in cm, but the file does not say so.
plankton/  plankton counts: a row for each in 2022, a column for each month from 2023 on
"""


def write_demo(folder: str | Path) -> Path:
    """Write the demo data.

    Returns the same folder.

    Raises OutputError when the folder holds other things.

    `folder`: where to write: a new or empty folder, or the demo data of an earlier call.

    Examples
    --------
    >>> import tempfile
    >>> folder = write_demo(Path(tempfile.mkdtemp()) / "lakes")
    >>> sorted(path.name for path in folder.iterdir())
    ['about-this-data.txt', 'field', 'gauges', 'lab', 'loggers', 'plankton', 'visits']
    """
    folder = Path(folder)
    try:
        if folder.exists() and any(folder.iterdir()) and not (folder / _MARK).exists():
            raise OutputError(f"the folder {folder} is not empty; name a new folder for the demo data")
        folder.mkdir(parents=True, exist_ok=True)
        (folder / _MARK).write_text(_ABOUT, encoding="utf-8")
        chance = random.Random(SEED)
        write_loggers(folder / "loggers", chance)
        _visits(folder / "visits", chance)
        _lab(folder / "lab", chance)
        write_field_visits(folder / "field", LAKES, chance)
        _plankton(folder / "plankton", chance)
        write_gauges(folder / "gauges", LAKES, random.Random(SEED + 1))
    except OSError as error:
        raise OutputError(f"cannot write the demo data to {folder}: {error.strerror}") from error
    return folder


def add_next_month(folder: str | Path) -> list[str]:
    """Let a month pass in the loggers of the demo data: new files, and what else happens to a folder.

    Returns what was done, as lines.

    Raises OutputError when it is not the demo data, or the month has passed already.

    Examples
    --------
    >>> import tempfile
    >>> add_next_month(write_demo(Path(tempfile.mkdtemp()) / "lakes"))[0]
    '5 new files: the loggers in 2024-10'
    """
    loggers = Path(folder) / "loggers"
    if not (Path(folder) / _MARK).exists() or not loggers.exists():
        raise OutputError(f"{folder} is not a folder of demo data; write it first: integrum demo {folder}")
    if list(loggers.glob(f"*/*_{NEXT_MONTH}_*")):
        raise OutputError(f"the loggers in {folder} have the files of {NEXT_MONTH} already")
    try:
        return write_next_month(loggers, random.Random(SEED + 2))
    except OSError as error:
        raise OutputError(f"cannot write to {folder}: {error.strerror or error}") from error


def _visits(folder: Path, chance: random.Random) -> None:
    weather = ("calm", "light wind, clear", "rain", 'fog ("thick")', "overcast, gusts")
    for year in YEARS:
        header = ["visit", "day", "lake", "secchi_depth", "ice", "weather"]
        if year >= 2023:
            header[3] = "Secchi Depth"
        rows = []
        for number in range(1, 31):
            day = date(year, 3, 1) + timedelta(days=7 * number + chance.randrange(5))
            ice = day.month == 3 and chance.random() < 0.7
            rows.append(
                [
                    f"{year % 100}-{number:03}",
                    day.isoformat(),
                    chance.choice(LAKES),
                    "" if ice else f"{chance.uniform(1.2, 6.8):.1f}",
                    "true" if ice else "false",
                    chance.choice(weather),
                ]
            )
        write_rows(folder / f"visits_{year}.csv", header, rows)


# what the laboratory called its columns, from which batch on
_LAB_NAMES = {
    1: ("sample", "lake", "sampled", "total_phosphorus", "chlorophyll_a", "turbidity"),
    5: ("Sample No", "Lake", "Date of sampling", "TP (µg/L)", "Chl a (µg/L)", "Turbidity"),
    9: ("sample_id", "lake", "sampled_on", "tp_ug_l", "chla_ug_l", "turb_filtered", "nitrate"),
}


def _lab(folder: Path, chance: random.Random) -> None:
    for batch in range(1, 13):
        header = list(_LAB_NAMES[max(first for first in _LAB_NAMES if first <= batch)])
        rows: list[list[str]] = []
        for number in range(1, 26):
            day = date(2021, 5, 3) + timedelta(days=110 * (batch - 1) + number)
            rows.append(
                [
                    f"{batch:02}{number:04}",
                    chance.choice(LAKES),
                    day.isoformat(),
                    str(chance.randint(4, 60)),
                    f"{chance.lognormvariate(1.4, 0.6):.2f}",
                    f"{chance.lognormvariate(0.9, 0.4):.1f}",
                ]
            )
        if batch == 5:
            rows[7][3] = "<4"
        if batch == 8:  # for once both were measured: turbidity after filtering is another thing
            header.append("turb_filtered")
            rows = [[*row, f"{float(row[5]) * chance.uniform(0.7, 0.95):.1f}"] for row in rows]
        if batch >= 9:
            rows = [[*row, f"{chance.uniform(0.05, 1.4):.2f}"] for row in rows]
        rows += [[], [f"Total samples: {len(rows)}"], ["Note: measured twice, the mean is given"]]
        write_rows(folder / f"batch{batch}.csv", header, rows)


_PLANKTON = ("Daphnia", "Bosmina", "Cyclops", "Keratella", "Asterionella")


def _plankton(folder: Path, chance: random.Random) -> None:
    """Counts: at first a row for each, later a column per month."""
    months = {year: [f"{year}-{month:02}" for month in range(4, 10)] for year in (2022, 2023, 2024)}
    rows = [
        [lake, species, month, str(chance.randint(0, 90))]
        for lake in LAKES
        for species in _PLANKTON
        for month in months[2022]
    ]
    write_rows(folder / "plankton_2022.csv", ["lake", "species", "month", "count"], rows)
    for year in (2023, 2024):
        rows = [
            [
                lake,
                species,
                *("" if chance.random() < 0.1 else str(chance.randint(0, 90)) for _ in months[year]),
            ]
            for lake in LAKES
            for species in _PLANKTON
        ]
        write_rows(folder / f"plankton_{year}.csv", ["lake", "species", *months[year]], rows)
