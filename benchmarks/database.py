"""A database as output, against CSV in the same run: times as ratios, and the memory for a small and a large table.

``python benchmarks/database.py [FOLDER]`` writes files of 500,000 rows of 13 columns to a folder.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROWS, FEW, MANY = 500_000, 1, 12
PLAN = """integrum = 1
[[sources]]
find = ["in"]
[[columns]]
name = "time"
type = "datetime"
[[columns]]
name = "lake"
[[columns]]
name = "logger"
type = "integer"
"""


def write(folder: Path, count: int) -> None:
    """Some files; those that are there stay."""
    import numpy as np

    (folder / "in").mkdir(parents=True, exist_ok=True)
    draw = np.random.default_rng(7)
    for number in range(count):
        place = folder / "in" / f"part{number:02}.csv"
        if place.exists():
            continue
        times = np.datetime64("2020-01-01T00:00:00") + np.arange(ROWS) * np.timedelta64(10, "m")
        texts = np.datetime_as_string(times)
        cells = [texts, np.array(["Ambermere", "Quillon Tarn"])[draw.integers(0, 2, ROWS)].astype(str)]
        cells += [draw.integers(0, 9999, ROWS).astype(str)]
        cells += [np.char.mod("%.2f", draw.normal(9, 2, ROWS)) for _ in range(10)]
        header = ",".join(["time", "lake", "logger", *(f"channel_{at}" for at in range(10))])
        lines = (",".join(row) for row in zip(*cells, strict=True))
        place.write_text("\n".join([header, *lines]) + "\n")
    plan = PLAN + "".join(f'[[columns]]\nname = "channel_{at}"\ntype = "number"\n' for at in range(10))
    (folder / "plan.toml").write_text(plan)


def run(folder: Path, to: str) -> tuple[float, float]:
    """Seconds and the peak of memory (MB) of a run in a process of its own."""
    start = time.perf_counter()
    command = [sys.executable, "-m", "integrum", "assemble", "plan.toml", "--to", to, "--quiet"]
    child = subprocess.Popen(command, cwd=folder)
    _, status, used = os.wait4(child.pid, 0)
    assert os.waitstatus_to_exitcode(status) == 0
    return time.perf_counter() - start, used.ru_maxrss / 1024


def main() -> None:
    with tempfile.TemporaryDirectory() as made:
        for count in (FEW, MANY):
            folder = Path(sys.argv[1] if sys.argv[1:] else made) / f"database-{count}"
            # in a process of its own: a child begins with the peak of its parent
            subprocess.run([sys.executable, __file__, "--write", str(folder), str(count)], check=True)
            for name in ("csv", "sqlite"):
                shutil.rmtree(folder / name, ignore_errors=True)
            csv, csv_memory = run(folder, "csv/o.csv")
            base, memory = run(folder, "sqlite/o.sqlite")
            os.utime(folder / "in" / "part00.csv")
            again, _ = run(folder, "sqlite/o.sqlite")
            print(
                f"{count * ROWS:,} rows: database {base:.1f} s, {base / csv:.1f} times the CSV ({csv:.1f} s); "
                f"peak {memory:.0f} MB (CSV {csv_memory:.0f} MB); again with nothing new {again / base:.2f} of it"
            )


if __name__ == "__main__":
    if sys.argv[1:2] == ["--write"]:
        write(Path(sys.argv[2]), int(sys.argv[3]))
    else:
        main()
