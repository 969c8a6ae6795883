"""Time Integrum against the hand-written loop, in one go, on the same files: wall time, peak memory, ratio.

python benchmarks/run.py [FOLDER]     the sets are made there (about 600 MB), and kept for the next time
"""

from __future__ import annotations

import os
import platform
import subprocess
import sys
import time
from pathlib import Path

from generate import generate

HERE = Path(__file__).parent
SETS = {
    "small": "1,000 files × 1,000 rows × 8 columns, three header variants",
    "large": "4 files × 1.5 M rows × 13 columns",
    "workbooks": "40 workbooks × 3 sheets × 2,000 rows × 8 columns",
}


def measured(command: list[str]) -> tuple[float, float]:
    """Wall seconds and peak MB of one process."""
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    if os.waitstatus_to_exitcode(status):
        raise SystemExit(f"failed: {' '.join(command)}")
    return seconds, usage.ru_maxrss / 1024


def main(root: Path) -> None:
    """Run both on both sets and print a table."""
    generate(root)
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}\n")
    print("| set | | time | peak memory | ratio |")
    print("|---|---|---|---|---|")
    for name, said in SETS.items():
        folder, out = root / name, root / f"{name}.csv"
        loop = measured([sys.executable, str(HERE / "loop.py"), str(folder), str(out)])
        out.unlink()
        ours = measured([sys.executable, str(HERE / "ours.py"), name, str(folder), str(out)])
        print(f"| {said} | hand-written loop | {loop[0]:.1f} s | {loop[1]:,.0f} MB | 1 |")
        print(
            f"| | Integrum | {ours[0]:.1f} s | {ours[1]:,.0f} MB | {loop[0] / ours[0]:.1f} × faster |",
            flush=True,
        )
        out.unlink()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data")
