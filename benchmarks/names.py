"""Time how long it takes to find, order and compare 10,000 small files in 200 folders.

python benchmarks/names.py [FOLDER]     the files are made there (about 60 MB on disk), and kept for the next time
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from pathlib import Path

HERE = Path(__file__).parent
FOLDERS, FILES = 200, 50


def make(root: Path) -> None:
    """Write the files, unless they are there; one in a hundred is the same as another."""
    if root.exists():
        return
    for folder in range(FOLDERS):
        (root / f"lake{folder}").mkdir(parents=True)
        for number in range(FILES):
            month = f"{2020 + number // 12}-{number % 12 + 1:02}"
            content = f"{folder}.{number}" if number else "0.0"
            rows = "".join(f"2024-01-{day:02} 00:00,{day / 8:.2f},{content}\n" for day in range(1, 21))
            name = f"lake{folder}_{month}_{417 + folder:05}.csv"
            (root / f"lake{folder}" / name).write_text(f"time,depth,temp\n{rows}")


def main(root: Path) -> None:
    """Run the command a few times and print the median."""
    make(root)
    command = [
        sys.executable,
        "-m",
        "integrum",
        "survey",
        str(root),
        "--names",
        "--ids",
        "{lake}_{month}_{serial}.csv",
    ]
    seconds = []
    for _ in range(5):
        start = time.perf_counter()
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        seconds.append(time.perf_counter() - start)
    print(f"{FOLDERS * FILES:,} files in {FOLDERS} folders, the whole command: ", end="")
    print(f"median {statistics.median(seconds):.2f} s of 5 ({min(seconds):.2f} to {max(seconds):.2f} s)")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data" / "names")
