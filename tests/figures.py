"""How good the guesses are: made-up tables and folders with known truth, read and compared.

python tests/figures.py [FIRST] [COUNT]     seeds below 100,000 were used in tuning; those from 200,000 on were not
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import integrum as ig
import naming_truth
import odd_folders
import odd_tables
import sure_corpus
from corpus import make
from integrum.detecting.detect import detect_sample
from integrum.detecting.sample import Sample
from integrum.problems.problem import counted

_PARTS = ("header", "units", "footer", "comment")
_STEPS = (0.0, 0.6, 0.8, 0.9, 0.95, 1.0)


def tables(first: int, count: int, strange: bool = False) -> None:
    """Tables that are hard to read, one by one; strange ones have words that the guess cannot know."""
    right: Counter[str] = Counter()
    of: Counter[str] = Counter()
    sure: dict[float, list[bool]] = {step: [] for step in _STEPS}
    with tempfile.TemporaryDirectory() as place:
        file = Path(place) / "t.csv"
        for seed in range(first, first + count):
            made = odd_tables.make(seed, strange)
            file.write_bytes(made.data)
            try:
                seen = ig.look(file)
                rows = {part: {row.row for row in seen.rows if row.part == part} for part in _PARTS}
                kept = {row.row for row in seen.rows if row.part in ("data", "set-aside")}
                confidence = seen.confidence
            except ig.IntegrumError:
                rows, kept, confidence = {part: set() for part in _PARTS}, set(), 0.0
            top = min(made.of("header"), default=0)
            good = {part: rows[part] == made.of(part) for part in _PARTS if part != "comment"}
            good["comment"] = {row for row in rows["comment"] if row > top} == {
                row for row in made.of("comment") if row > top
            }
            good["no row of data left out"] = made.of("data") <= kept
            size = (
                "20 rows and more" if made.rows >= 20 else "6 to 19 rows" if made.rows > 5 else "1 to 5 rows"
            )
            for name, each in (
                *good.items(),
                (f"header, {size}", good["header"]),
                ("all", all(good.values())),
            ):
                right[name] += each
                of[name] += 1
            sure[max(step for step in _STEPS if step <= confidence)].append(all(good.values()))
    print(f"tables{' of invented words' if strange else ''}, seeds {first:,} to {first + count - 1:,}")
    for name in sorted(of):
        print(f"  {name:<28} {100 * right[name] / of[name]:6.2f} % of {of[name]:,}")
    for step, found in sure.items():
        if found:
            print(
                f"  confidence from {step:<5} {100 * sum(found) / len(found):6.2f} % of {len(found):,} are right"
            )
    high = [one for step, found in sure.items() if step >= 0.95 for one in found]
    print(
        f"  confidence 0.95 and more: {100 * sum(high) / max(len(high), 1):.2f} % of {len(high):,} are right"
    )


def files(first: int, count: int) -> None:
    """Exports with preambles, in many dialects and encodings."""
    right: Counter[str] = Counter()
    for seed in range(first, first + count):
        made, found = make(seed), detect_sample(Sample(make(seed).data))
        layout = found.layout
        right["dialect"] += layout.delimiter == made.delimiter and (
            "decimal_mark" in found.free or layout.decimal_mark == made.decimal_mark
        )
        right["header"] += (layout.header_row, layout.header_rows) == (made.header_row, made.header_rows)
        right["units"] += layout.units_row == made.units_row
        right["footer"] += bool(layout.footer_from) == bool(made.footer_row)
        right["encoding"] += made.only_ascii or layout.encoding == made.encoding
    print(f"exports, seeds {first:,} to {first + count - 1:,}")
    for name, hits in right.items():
        print(f"  {name:<28} {100 * hits / count:6.2f} % of {count:,}")


def folders(first: int, count: int) -> None:
    """Folders that are drafted, and assembled as drafted."""
    right: Counter[str] = Counter()
    of: Counter[str] = Counter()
    for seed in range(first, first + count):
        made = odd_folders.make_folder(seed)
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place) / "in"
            folder.mkdir()
            for name, data in made.files.items():
                (folder / name).write_bytes(data)
            draft = ig.draft(folder)
            outcome = ig.assemble(draft.save(Path(place) / "plan.toml"))
        copies = {one.source for one in outcome.problems if one.code == "same-content"}
        rows = {one.source: one.ledger.data + one.ledger.set_aside for one in outcome.sources}
        for name, wanted in made.rows.items():
            if wanted >= 0 and name not in copies:
                of["rows of a source"] += 1
                right["rows of a source"] += rows[name] == wanted
        for name, good in (
            (
                "columns of a folder",
                {one.name.lower() for one in draft.plan.columns} == {one.lower() for one in made.header},
            ),
            ("a folder is one group", len(draft.plan.sources) == 1),
            (
                "rows as the draft says",
                f"with {counted(outcome.rows, 'row')} of data" in str(draft).splitlines()[0],
            ),
        ):
            of[name] += 1
            right[name] += good
    print(f"folders, seeds {first:,} to {first + count - 1:,}")
    for name in of:
        print(f"  {name:<28} {100 * right[name] / of[name]:6.2f} % of {of[name]:,}")


def sure(first: int, count: int) -> None:
    """Harms and their innocent twins: what is lost or changed without a word, and what is told though nothing is wrong."""
    right: Counter[str] = Counter()
    of: Counter[str] = Counter()
    for name in sure_corpus.CLASSES:
        for seed in range(first, first + count):
            made = sure_corpus.make(name, seed)
            with tempfile.TemporaryDirectory() as place:
                wrong = sure_corpus.violations(made, Path(place) / "in", Path(place) / "o.csv")
            kind = "harms that are told or avoided" if made.told else "twins without a false alarm"
            for each, good in (
                (kind, not wrong),
                ("folders without a row lost in silence", not any(one.startswith("rows") for one in wrong)),
            ):
                of[each] += 1
                right[each] += good
    print(f"sure or said, seeds {first:,} to {first + count - 1:,}")
    for name in of:
        print(f"  {name:<38} {100 * right[name] / of[name]:6.2f} % of {of[name]:,}")


def names(first: int, count: int) -> None:
    """Names of columns in the sources of one table: what is certain, and the guesses."""
    made = naming_truth.Tally()
    with ProcessPoolExecutor() as pool:
        for one in pool.map(
            naming_truth.tally, ([seed] for seed in range(first, first + count)), chunksize=10
        ):
            made.add(one)
    print(f"names, seeds {first:,} to {first + count - 1:,}")
    print(
        f"  certain                      {100 * made.certain_right / made.certain:6.2f} % of {made.certain:,}"
    )
    for what, found, due in (
        ("guesses", made.guesses, made.due),
        ("without a header", made.by_position, made.due_by_position),
    ):
        right = sum(good for _, good in found)
        print(f"  {what:<28} {100 * right / max(len(found), 1):6.2f} % of {len(found):,} right")
        print(f"  {'':<28} {100 * right / max(due, 1):6.2f} % of {due:,} found")
    for low, (number, score, share) in made.deciles().items():
        print(f"  scores from {low:.1f}              mean {score:.2f}, right {share:.2f} of {number:,}")


if __name__ == "__main__":
    start = int(sys.argv[1]) if len(sys.argv) > 1 else 300_000
    many = int(sys.argv[2]) if len(sys.argv) > 2 else 3_000
    tables(start, many)
    tables(start, many, strange=True)
    files(start, many)
    folders(start, many // 10)
    sure(start, many // 100)
    names(start, many // 3)
