"""What each part of a planned run costs: reading, converting, writing, and each measure of the record.

python benchmarks/budget.py [FOLDER] [SET...]     the sets are made there, and kept for the next time

The CPU time of each part is taken on the thread that does it. To turn a measure off and time two whole runs would drown the
share of most in the noise of the machine.
"""

from __future__ import annotations

import sys
import time
from collections import defaultdict
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from generate import generate
from ours import LARGE, SMALL

import integrum as ig
from integrum.assembling import batch
from integrum.assembling import run as worker
from integrum.dispatch import feed, job
from integrum.measures.measures import MEASURES
from integrum.reading import heads

SPENT: dict[str, float] = defaultdict(float)
# besides the measures; all but the first three have to stay small
PARTS: dict[str, tuple[Any, str]] = {
    "parse": (job, "parse"),
    "convert": (batch, "table_columns"),
    "write": (batch, "_stacked"),
    "inspect: read, hash, count": (feed, "inspect_some"),
    "heads": (heads, "_read_some"),
    "judge what is left out": (job, "judge"),
}


def timed(name: str, work: Callable[..., Any]) -> Callable[..., Any]:
    """The same work, with its CPU time added to a part."""

    @wraps(work)
    def do(*given: Any, **more: Any) -> Any:
        start = time.thread_time()
        try:
            return work(*given, **more)
        finally:
            SPENT[name] += time.thread_time() - start

    return do


def watch() -> None:
    """Time the parts of all runs that follow."""
    for name, (room, function) in PARTS.items():
        setattr(room, function, timed(name, getattr(room, function)))
    for measure in MEASURES:
        name = f"measure: {type(measure).__name__}"
        kind = type(measure)
        kind.look = timed(name, kind.look)  # type: ignore[method-assign]
        state: Any = measure.begin
        if isinstance(state, type):
            state.add = timed(name, state.add)  # type: ignore[attr-defined]
    made_of = batch.made_of

    def packed(task: Any, schema: Any, as_text: bool, pack: Any) -> Any:
        return made_of(task, schema, as_text, timed("write", pack))

    made: Any = worker
    made.made_of = packed


def main(root: Path, names: list[str]) -> None:
    """Run each set, and print the shares."""
    generate(root)
    watch()
    for name in names:
        SPENT.clear()
        columns = LARGE if name == "large" else SMALL
        plan = root / f"{name}.toml" if name in ("register", "exports") else None
        with TemporaryDirectory() as out:
            start = time.process_time()
            ig.assemble(plan or ig.Plan([ig.Sources(str(root / name))], columns), to=Path(out) / "t.csv")
            total = time.process_time() - start
        SPENT["all else"] = total - sum(SPENT.values())
        main_parts = sum(SPENT[each] for each in ("parse", "convert", "write"))
        measures = sum(spent for each, spent in SPENT.items() if each.startswith("measure"))
        print(f"\n{name}: {total:.1f} s of CPU\n\n| part | CPU | share |\n|---|---|---|")
        for part, spent in sorted(SPENT.items(), key=lambda one: -one[1]):
            if spent >= 0.0005 * total:
                print(f"| {part} | {spent:.2f} s | {spent / total:.1%} |")
        print(
            f"\nAll measures together: {measures / total:.1%}; parse, convert and write: {main_parts / total:.1%}"
        )


if __name__ == "__main__":
    place = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent / "data"
    main(place, sys.argv[2:] or ["small", "large"])
