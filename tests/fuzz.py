"""Damaged folders under written plans, read by the library and by an independent reading: table, ledgers, record.

Run more of it with ``make fuzz``, or ``python tests/fuzz.py FIRST LAST``.
"""

import csv
import sys
import tempfile
from collections import Counter
from pathlib import Path

import independent
import integrum as ig
from damage import Case, case
from knobs import turned


def differences(one: Case, folder: Path) -> list[str]:
    """What the library says otherwise than the independent reading does."""
    (folder / "in").mkdir()
    for name, data in one.files.items():
        (folder / "in" / name).write_bytes(data)
    (folder / "plan.toml").write_text(ig.write_plan(one.plan), encoding="utf-8")
    with turned(piece=one.piece):
        outcome = ig.assemble(folder / "plan.toml", to=folder / "o.csv")
    expected = {name: independent.read(data, one.plan) for name, data in one.files.items()}
    _set_twins_aside(one, expected)
    return [
        *_about_sources(outcome, expected),
        *_about_table(outcome, expected, one),
        *_about_record(outcome, expected),
    ]


def _set_twins_aside(one: Case, expected: dict[str, independent.Expected]) -> None:
    seen: set[bytes] = set()
    for name, data in one.files.items():
        if not expected[name].reasons:
            if data in seen and one.plan.rules.duplicates == "set-aside":
                expected[name] = independent.Expected(("same-content",), unlisted=expected[name].unlisted)
            seen.add(data)


def _about_sources(outcome: ig.Outcome, expected: dict[str, independent.Expected]) -> list[str]:
    said = []
    for source in outcome.sources:
        want = expected[source.source]
        if source.reason not in (want.reasons or ("",)):
            said.append(f"{source.source}: set aside for {source.reason!r}, expected {want.reasons}")
        elif not want.reasons:
            got = {
                part: getattr(source.ledger, part.replace("-", "_")) for part in ("rows", *independent.PARTS)
            }
            other = {
                part: (count, want.ledger[part]) for part, count in got.items() if count != want.ledger[part]
            }
            if other:
                said.append(f"{source.source}: ledger (got, expected): {other}")
        if not source.ledger.adds_up or (want.reasons and source.ledger.data):
            said.append(f"{source.source}: its ledger does not add up: {source.ledger}")
    return said


def _about_table(outcome: ig.Outcome, expected: dict[str, independent.Expected], one: Case) -> list[str]:
    rows = [
        {"source": name} | row for name, want in expected.items() if not want.reasons for row in want.rows
    ]
    if not outcome.is_assembled:
        return ["nothing was assembled"] if any(not want.reasons for want in expected.values()) else []
    got = independent.read_csv(outcome.output.read_bytes()) if outcome.output else []
    names = list(got[0]) if got else []
    wanted = [{name: row.get(name, "") for name in names} for row in rows]
    lost = {name for row in rows for name in row} - set(names) if got else set()
    if len(got) != len(rows):
        return [f"{len(got)} rows, expected {len(rows)}"]
    other = [(mine, theirs) for mine, theirs in zip(got, wanted, strict=True) if mine != theirs]
    first = [f"row (got, expected): {other[0]}"] if other else []
    return [*first, *([f"columns that are not in the table: {lost}"] if lost else [])]


def _about_record(outcome: ig.Outcome, expected: dict[str, independent.Expected]) -> list[str]:
    if not outcome.is_assembled or outcome.record is None:
        return []
    with open(outcome.record / "set-aside.csv", encoding="utf-8", newline="") as file:
        got = Counter(
            tuple(row[key] for key in ("source", "row", "column", "code", "raw"))
            for row in csv.DictReader(file)
        )
    reasons = {source.source: source.reason for source in outcome.sources}
    want = Counter(
        (name, str(row), column, code, raw)
        for name, one in expected.items()
        if not one.reasons
        for row, column, code, raw in one.aside
    )
    want.update((name, "", "", reasons[name], "") for name, one in expected.items() if one.reasons)
    said = [f"set-aside.csv has {entry}" for entry in (got - want)]
    said += [f"set-aside.csv lacks {entry}" for entry in (want - got)]
    with open(outcome.record / "left-out.csv", encoding="utf-8", newline="") as file:
        left = [(row["source"], row["row"], row["part"], row["raw"]) for row in csv.DictReader(file)]
    wanted = [
        entry
        for name, one in expected.items()
        for entry in (
            [(name, "", "set-aside", "")]
            if one.reasons
            else [(name, str(row), part, raw) for row, part, raw in sorted(one.left)]
        )
    ]
    if sorted(left) != sorted(wanted):
        said += [
            f"left-out.csv has {sorted(set(left) - set(wanted))[:3]}, lacks {sorted(set(wanted) - set(left))[:3]}"
        ]
    if [name for name, *_ in left] != sorted((name for name, *_ in left), key=list(expected).index):
        said.append("left-out.csv is not in the order of the sources")
    back = Counter(
        (one.source, one.row or "", one.column, one.code, one.raw)
        for one in ig.read_record(outcome.record).set_aside
    )
    if Counter((a, str(b), *rest) for a, b, *rest in back.elements()) != got:
        said.append("the record reads back otherwise than it is written")
    counted = Counter(
        (name, code) for name, _, _, code, _ in got.elements() if code in _COUNTED and reasons[name] == ""
    )
    problems = Counter()
    for one in outcome.problems:
        if one.code in _COUNTED and reasons.get(one.source) == "":
            problems[one.source, one.code] += one.count
    if counted != problems and outcome.plan.rules.bad_values != "set-row-aside":
        said.append(f"problems count {problems}, the record has {counted}")
    return said


_COUNTED = ("bad-value", "row-too-long", "row-too-short", "text-after-quote")


def check(seed: int) -> list[str]:
    """What is wrong with the case of a seed."""
    with tempfile.TemporaryDirectory() as folder:
        return differences(case(seed), Path(folder))


def main() -> int:
    """Try many seeds, and say which of them fail."""
    first, last = int(sys.argv[1]), int(sys.argv[2])
    failed = 0
    for seed in range(first, last):
        try:
            said = check(seed)
        except Exception as error:  # whatever it is, the seed is wanted
            said = [f"{type(error).__name__}: {error}"]
        if said:
            failed += 1
            print(f"seed {seed}:", *said[:3], sep="\n  ", flush=True)
    print(f"{last - first:,} cases, {failed:,} failed")
    return int(failed > 0)


if __name__ == "__main__":
    sys.exit(main())
