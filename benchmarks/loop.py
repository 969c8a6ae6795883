"""The baseline: the loop that analysts write by hand (read each, rename, add the source, stack, write)."""

from __future__ import annotations

import sys
from pathlib import Path

import pandas as pd

RENAMES = {
    "Time": "time",
    "Lake": "lake",
    "Depth": "depth",
    "Water Temp": "water_temp",
    "Oxygen": "oxygen",
    "pH": "ph",
    "Serial": "serial",
    "Remark": "remark",
    "oxygen_mgl": "oxygen",
}


def loop(folder: Path, output: Path) -> None:
    """Stack all files of a folder into one CSV."""
    frames = []
    for path in sorted(folder.glob("*.csv")):
        frame = pd.read_csv(path, parse_dates=["time"] if "large" in str(folder) else None)
        frame = frame.rename(columns=RENAMES)
        if "time" in frame:
            frame["time"] = pd.to_datetime(frame["time"])
        frame.insert(0, "source", path.name)
        frames.append(frame)
    pd.concat(frames, ignore_index=True).to_csv(output, index=False)


def loop_workbooks(folder: Path, output: Path) -> None:
    """Stack all sheets of all workbooks of a folder into one CSV."""
    frames = []
    for path in sorted(folder.glob("*.xlsx")):
        for name, frame in pd.read_excel(path, sheet_name=None, engine="openpyxl").items():
            frame = frame.rename(columns=RENAMES)
            frame.insert(0, "sheet", name)
            frame.insert(0, "source", path.name)
            frames.append(frame)
    pd.concat(frames, ignore_index=True).to_csv(output, index=False)


if __name__ == "__main__":
    stack = loop_workbooks if next(Path(sys.argv[1]).glob("*.xlsx"), None) else loop
    stack(Path(sys.argv[1]), Path(sys.argv[2]))
