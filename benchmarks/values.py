"""How much odd values cost: a column with 1 % of them against a clean one, day-first dates against ISO ones."""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np

import integrum as ig

ROWS, FILES, TIMES = 250_000, 4, 5


def _write(folder: Path, texts: Sequence[str]) -> Path:
    folder.mkdir()
    for number in range(FILES):
        # each file begins elsewhere, as a source with the content of another one is set aside
        rows = [*texts[number:], *texts[:number]]
        (folder / f"part{number + 1}.csv").write_text("value\n" + "\n".join(rows) + "\n")
    return folder


def _sets(folder: Path) -> dict[str, tuple[Path, ig.Column]]:
    rng = np.random.default_rng(9)
    clean = [f"{value:.2f}" for value in rng.normal(10, 3, ROWS)]
    odd = list(clean)
    signs = ("n/a", "<0.05", "+7.5", "12.5 mg/L", "-999", "1 234.5")
    for number, at in enumerate(rng.choice(ROWS, ROWS // 100, replace=False)):
        odd[at] = signs[number % len(signs)]
    moments = (np.datetime64("2020-01-01T00:00") + np.arange(ROWS) * np.timedelta64(10, "m")).astype(object)
    iso = [f"{each:%Y-%m-%d %H:%M}" for each in moments]
    first = [f"{each:%d.%m.%Y %H:%M}" for each in moments]
    unpadded = [f"{each.month}/{each.day}/{each.year} {each.hour}:{each.minute:02}" for each in moments]
    column = ig.Column("value", "number", unit="mg/L", missing=["n/a", "-999"], censored="flag")
    time_of = ig.Column("value", "datetime")
    return {
        "clean numbers": (_write(folder / "clean", clean), column),
        "1 % odd": (_write(folder / "odd", odd), column),
        "ISO dates": (_write(folder / "iso", iso), time_of),
        "day first": (_write(folder / "dmy", first), ig.Column("value", "datetime", date_order="dmy")),
        "month first, no zeros": (
            _write(folder / "mdy", unpadded),
            ig.Column("value", "datetime", date_order="mdy"),
        ),
    }


def main() -> None:
    """Print the median of several runs in turn, and the ratios that count."""
    with tempfile.TemporaryDirectory() as place:
        sets = _sets(Path(place))
        took: dict[str, list[float]] = {name: [] for name in sets}
        for _ in range(TIMES):
            for name, (folder, column) in sets.items():
                begun = time.process_time()
                ig.assemble(ig.Plan([ig.Sources(str(folder))], [column]), to=Path(place, "out", "o.csv"))
                took[name].append(time.process_time() - begun)
    typical = {name: statistics.median(times) for name, times in took.items()}
    for name, seconds in typical.items():
        sys.stdout.write(f"{name:<22} {seconds:6.2f} s of CPU for {FILES * ROWS:,} values\n")
    for name, base in (
        ("1 % odd", "clean numbers"),
        ("day first", "ISO dates"),
        ("month first, no zeros", "ISO dates"),
    ):
        sys.stdout.write(f"{name} : {base}  {typical[name] / typical[base]:.2f}\n")


if __name__ == "__main__":
    main()
