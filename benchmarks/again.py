"""Time a run over an earlier one: one new file beside those that are there.

python benchmarks/again.py [FOLDER]     the sets are made there (about 600 MB), and kept for the next time

Each way of running comes in turn, three times, as a process of its own; before each the table and the record of the
earlier run are put back. The figures are medians, and ratios to a full run of the same turn.
"""

from __future__ import annotations

import os
import shutil
import statistics
import subprocess
import sys
import time
from pathlib import Path

from generate import generate
from run import HERE, TIMES

WAYS = {
    "a full run": {"afresh": True},
    "with hashes": {},
    "with --trust-times": {"trust_times": True},
}
RUN = """
import sys
import integrum as ig
from ours import LARGE, SMALL
columns = LARGE if sys.argv[1] == "large" else SMALL
ig.assemble(ig.Plan([ig.Sources(sys.argv[2])], columns), to=sys.argv[3], **eval(sys.argv[4]))
"""


def seconds(kind: str, sources: Path, table: Path, way: dict[str, bool]) -> float:
    """Wall seconds of one process; modules are compiled once, as those of an installed package are."""
    settings = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    command = [sys.executable, "-c", RUN, kind, str(sources), str(table), repr(way)]
    start = time.perf_counter()
    subprocess.run(command, check=True, cwd=HERE, env=settings)
    return time.perf_counter() - start


def again(root: Path, kind: str, suffix: str) -> None:
    """Time one set."""
    work = root / "again"
    shutil.rmtree(work, ignore_errors=True)
    sources, out, kept = work / "in", work / "out", work / "kept"
    sources.mkdir(parents=True)
    files = sorted((root / kind).glob("*.csv"))
    for path in files:
        os.link(path, sources / path.name)
    table = out / f"table{suffix}"
    seconds(kind, sources, table, {})
    shutil.copytree(out, kept)
    with open(files[0], "rb") as first:
        lines = first.readlines(100_000)
    (sources / f"part{len(files) + 1}.csv").write_bytes(b"".join([lines[0], *lines[2:]]))
    found: dict[str, list[float]] = {name: [] for name in WAYS}
    for _ in range(TIMES):
        for name, way in WAYS.items():
            shutil.rmtree(out)
            shutil.copytree(kept, out)
            os.sync()  # the table of a month ago is on the disk
            found[name].append(seconds(kind, sources, table, way))
    whole = found["a full run"]
    said = [f"full {statistics.median(whole):.1f} s"]
    for name in list(WAYS)[1:]:
        ratios = [one / full for one, full in zip(found[name], whole, strict=True)]
        said.append(f"{name} {statistics.median(found[name]):.1f} s, {statistics.median(ratios):.2f} of it")
    sys.stdout.write(f"{kind} to {suffix}: {'; '.join(said)}\n")
    shutil.rmtree(work)


if __name__ == "__main__":
    place = Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data"
    generate(place)
    for each in ("small", "large"):
        for ending in (".csv", ".parquet"):
            again(place, each, ending)
