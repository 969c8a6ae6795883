"""Write the demo data: loggers in lakes, field visits, laboratory results. All invented, and seeded."""

from __future__ import annotations

import csv
import gzip
import random
import zipfile
from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta
from math import cos, pi
from pathlib import Path

from integrum.demo.gauges import write_gauges
from integrum.demo.workbooks import write_field_visits
from integrum.errors import OutputError

SEED = 20_26
LAKES = ("Ambermere", "Quillon Tarn", "Vessel Lake", "Hollow Water", "Brindlemere")
MONTHS = ("2024-04", "2024-05", "2024-06", "2024-07", "2024-08", "2024-09")
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

Rows = Iterable[Sequence[object]]


def write_demo(folder: str | Path) -> Path:
    """Write the demo data.

    Parameters
    ----------
    folder
        Where to write: a new or empty folder, or the demo data of an earlier call.

    Returns
    -------
    Path
        The same folder.

    Raises
    ------
    OutputError
        When the folder holds other things.

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
        _loggers(folder / "loggers", chance)
        _visits(folder / "visits", chance)
        _lab(folder / "lab", chance)
        write_field_visits(folder / "field", LAKES, chance)
        _plankton(folder / "plankton", chance)
        write_gauges(folder / "gauges", LAKES, random.Random(SEED + 1))
    except OSError as error:
        raise OutputError(f"cannot write the demo data to {folder}: {error.strerror}") from error
    return folder


def _loggers(folder: Path, chance: random.Random) -> None:
    for number, lake in enumerate(LAKES):
        name, serial = lake.lower().replace(" ", "-"), f"{417 + 31 * number:05}"
        for month in MONTHS:
            header, rows = _columns(_logger_rows(lake, month, chance), _LOGGER_MONTHS[month])
            path = folder / name / f"{name}_{month}_{serial}.csv"
            if lake == "Brindlemere":
                _write_export(path, lake, serial, header, rows, chance)
            elif lake == "Vessel Lake":
                _write(path, header, rows, encoding="utf-16", delimiter="\t")
            else:
                _write(path, header, rows)
    _as_it_goes(folder)


def _write_export(
    path: Path, lake: str, serial: str, header: list[str], rows: list[list[str]], chance: random.Random
) -> None:
    """The export of another brand of logger: a preamble of some length, units, semicolons, decimal commas."""
    preamble = [["Logger export"], [f"Serial No: {serial}"], [f"Site: {lake}"], ["Firmware: 3.1.4"]]
    preamble += [["Interval: 4 h"], ["Operator: team B"], ["Battery: ok"]][: chance.randint(0, 3)]
    units = {
        "Water Temp": "°C",
        "water_temp": "°C",
        "oxygen": "mg/L",
        "battery": "V",
        "Depth": "m",
        "depth": "m",
    }
    lines = [*preamble, [], header, [units.get(name, "") for name in header]]
    lines += [[cell.replace(".", ",") for cell in row] for row in rows]
    _write(path, lines[0], lines[1:], encoding="cp1252", delimiter=";")


def _as_it_goes(folder: Path) -> None:
    """What happens to folders of files over time."""
    (folder / "quillon-tarn" / "quillon-tarn_2024-07_00448.csv").unlink()
    hollow, vessel, brindle = folder / "hollow-water", folder / "vessel-lake", folder / "brindlemere"
    (hollow / "hollow-water_2024-06_00510.csv").replace(hollow / "download june (final).csv")
    twice = vessel / "vessel-lake_2024-09_00479.csv"
    (vessel / "vessel-lake_2024-09_00479 (1).csv").write_bytes(twice.read_bytes())
    (folder / "ambermere" / "~$ambermere_2024-05_00417.csv").write_bytes(b"\x05office")
    (folder / "ambermere" / "shore.png").write_bytes(_PICTURE)
    glued = hollow / "hollow-water_2024-05_00510.csv"
    lines = glued.read_text(encoding="utf-8").splitlines(keepends=True)
    half = len(lines) // 2
    glued.write_text("".join([*lines[:half], lines[0], *lines[half:]]), encoding="utf-8", newline="")
    packed = hollow / "hollow-water_2024-09_00510.csv"
    packed.with_name(packed.name + ".gz").write_bytes(gzip.compress(packed.read_bytes(), mtime=0))
    packed.unlink()
    zipped = brindle / "brindlemere_2024-08_00541.csv"
    with zipfile.ZipFile(brindle / "brindlemere_2024-08.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo(zipped.name, (2024, 9, 2, 8, 0, 0)), zipped.read_bytes())
    zipped.unlink()


# one grey point
_PICTURE = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108000000003a7e9b55"
    "0000000a49444154789c636a000000820081dd436af40000000049454e44ae426082"
)


def _logger_rows(lake: str, month: str, chance: random.Random) -> list[dict[str, str]]:
    rows = []
    start = datetime.fromisoformat(f"{month}-01")
    for step in range(180):
        moment = start + timedelta(hours=4 * step)
        season = -cos(2 * pi * (moment.timetuple().tm_yday - 30) / 365)
        temperature = 11 + 9 * season + chance.gauss(0, 0.6)
        oxygen = 14.2 - 0.28 * temperature + chance.gauss(0, 0.3)
        broken = lake == "Vessel Lake" and month == "2024-08" and 100 <= step < 106
        rows.append(
            {
                "time": moment.strftime("%Y-%m-%d %H:%M"),
                "temp": f"{temperature:.2f}",
                "depth": f"{2.5 + chance.gauss(0, 0.05):.2f}",
                "oxygen": "n/a" if broken else f"{oxygen:.1f}",
                "battery": f"{3.6 - step / 900:.2f}",
            }
        )
    return rows


def _columns(
    rows: list[dict[str, str]], pairs: Sequence[tuple[str, str]]
) -> tuple[list[str], list[list[str]]]:
    return [header for header, _ in pairs], [[row[key] for _, key in pairs] for row in rows]


_FIRST = (("Date/Time", "time"), ("Water Temp", "temp"), ("Depth", "depth"))
_SECOND = (("date_time", "time"), ("water_temp", "temp"), ("depth", "depth"))
_THIRD = (("date_time", "time"), ("depth", "depth"), ("water_temp", "temp"), ("oxygen", "oxygen"))
_FOURTH = (*_THIRD, ("battery", "battery"))
_LOGGER_MONTHS = dict(zip(MONTHS, (_FIRST, _FIRST, _SECOND, _THIRD, _THIRD, _FOURTH), strict=True))


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
        _write(folder / f"visits_{year}.csv", header, rows)


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
        _write(folder / f"batch{batch}.csv", header, rows)


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
    _write(folder / "plankton_2022.csv", ["lake", "species", "month", "count"], rows)
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
        _write(folder / f"plankton_{year}.csv", ["lake", "species", *months[year]], rows)


def _write(
    path: Path, header: Sequence[str], rows: Rows, encoding: str = "utf-8", delimiter: str = ","
) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    with open(path, "w", encoding=encoding, newline="") as file:
        writer = csv.writer(file, lineterminator="\n", delimiter=delimiter)
        writer.writerow(header)
        writer.writerows(rows)
