"""The loggers of the demo data: a file for each lake and month, as folders of files look after some years."""

from __future__ import annotations

import csv
import gzip
import random
import zipfile
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from math import cos, pi
from pathlib import Path

Rows = Iterable[Sequence[object]]
LAKES = ("Ambermere", "Quillon Tarn", "Vessel Lake", "Hollow Water", "Brindlemere")
MONTHS = ("2024-04", "2024-05", "2024-06", "2024-07", "2024-08", "2024-09")


def write_rows(
    path: Path, header: Sequence[str], rows: Rows, encoding: str = "utf-8", delimiter: str = ","
) -> None:
    """Write a CSV file."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with open(path, "w", encoding=encoding, newline="") as file:
        writer = csv.writer(file, lineterminator="\n", delimiter=delimiter)
        writer.writerow(header)
        writer.writerows(rows)


def write_loggers(folder: Path, chance: random.Random) -> None:
    """Write the loggers of the first season."""
    for lake in LAKES:
        for month in MONTHS:
            _write_month(folder, lake, month, _LOGGER_MONTHS[month], chance)
    _as_it_goes(folder)


def _write_month(
    folder: Path, lake: str, month: str, columns: Sequence[tuple[str, str]], chance: random.Random
) -> Path:
    """The file of a month, as the logger of a lake writes it."""
    name, serial = lake.lower().replace(" ", "-"), f"{417 + 31 * LAKES.index(lake):05}"
    header, rows = _columns(_logger_rows(lake, month, chance), columns)
    path = folder / name / f"{name}_{month}_{serial}.csv"
    if lake == "Brindlemere":
        _write_export(path, lake, serial, header, rows, chance)
    elif lake == "Vessel Lake":
        write_rows(path, header, rows, encoding="utf-16", delimiter="\t")
    else:
        write_rows(path, header, rows)
    return path


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
    write_rows(path, lines[0], lines[1:], encoding="cp1252", delimiter=";")


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


NEXT_MONTH = "2024-10"
# the firmware of Quillon Tarn is new, and has another word for the temperature
_FIFTH = tuple(("water_temperature", key) if key == "temp" else (name, key) for name, key in _FOURTH)


def write_next_month(folder: Path, chance: random.Random) -> list[str]:
    """Write what has come a month later: new files, a correction, a late line, a better name.

    Returns what was done, as lines.
    """
    new = [
        _write_month(folder, lake, NEXT_MONTH, _FIFTH if lake == "Quillon Tarn" else _FOURTH, chance)
        for lake in LAKES
    ]
    vessel, quillon, hollow = (folder / name for name in ("vessel-lake", "quillon-tarn", "hollow-water"))
    corrected = vessel / "vessel-lake_2024-08_00479.csv"
    text = corrected.read_text(encoding="utf-16")
    corrected.write_text(text.replace("\t22.46\t", "\t21.46\t", 1), encoding="utf-16", newline="")
    longer = quillon / "quillon-tarn_2024-09_00448.csv"
    with open(longer, "a", encoding="utf-8", newline="") as file:
        file.write("2024-10-01 00:00,2.51,14.62,10.4,3.40\n2024-10-01 04:00,2.47,14.40,10.6,3.40\n")
    renamed = hollow / "download june (final).csv"
    renamed.replace(hollow / "hollow-water_2024-06_00510.csv")
    copy = vessel / "vessel-lake_2024-09_00479 (1).csv"
    copy.unlink()
    return [
        f"{len(new)} new files: the loggers in {NEXT_MONTH}",
        f"{corrected.name}: a value corrected",
        f"{longer.name}: two lines that came late",
        f"{renamed.name}: renamed to hollow-water_2024-06_00510.csv",
        f"{copy.name}: the copy removed",
    ]
