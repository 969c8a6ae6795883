"""How many lines of a drafted plan have to change before its table is right: python tests/count_edits.py [SEEDS] [KIND]."""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time
from fnmatch import fnmatchcase
from pathlib import Path

import integrum as ig
from desks import KINDS, TUNED, UNTUNED, Desk, TrueColumn, make_desk

NUMBERS = ("number", "integer")


@dataclass
class Judged:
    """What a draft of a folder came to.

    Attributes
    ----------
    edits
        The lines that have to change, each in words.
    silent
        What is wrong in the table without a problem that tells of it.
    fails
        Why the draft cannot be run; empty when it can.
    warned
        The codes of warnings and errors.
    """

    edits: list[str] = field(default_factory=list)
    silent: list[str] = field(default_factory=list)
    fails: str = ""
    warned: tuple[str, ...] = ()
    types: int = 0
    types_right: int = 0


def judge(desk: Desk, folder: Path, accept: float = 0.9) -> Judged:
    """Draft a plan for a folder, assemble it, and hold the table against the right one."""
    for name, content in desk.files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
    made = Judged()
    try:
        draft = ig.draft(folder, accept=accept)
        outcome = ig.assemble(draft)
        table = outcome.table
    except ig.IntegrumError as error:
        made.fails = str(error)
        return made
    made.warned = tuple(dict.fromkeys(one.code for one in outcome.problems if one.severity != "note"))
    told = {one.column for one in outcome.problems if one.severity != "note"}
    rows = max(len(one.values) for one in desk.columns.values())
    order = {name: at for at, name in enumerate(desk.files)}
    if table is None or table.num_rows != rows:
        count = 0 if table is None else table.num_rows
        made.edits.append(f"rows: {count} of {rows}")
        if not made.warned:
            made.silent.append(f"{count} of {rows} rows")
        return made
    # the rows in the order of the files
    files = [order[name.partition("/")[0]] for name in table["source"].to_pylist()]
    taking = sorted(range(rows), key=lambda at: files[at])
    here = {name: table[name].to_pylist() for name in table.column_names}
    of = {
        name: [column for column in draft.plan.columns if _shares(column, one)]
        for name, one in desk.columns.items()
    }
    for name, one in desk.columns.items():
        _judge_column(name, one, of[name], here, taking, desk, told, made)
    return made


def _shares(column: ig.Column, one: TrueColumn) -> bool:
    names = {" ".join(each.split()) for each in column.headers} | {column.name}
    wanted = {" ".join(each.split()) for each in one.headers}
    if any(
        fnmatchcase(header, name.replace("[", "[[]")) for name in names for header in wanted if "*" in name
    ):
        return True
    return bool(names & wanted or ("" in one.headers and column.name.startswith("column")))


def _judge_column(
    name: str,
    one: TrueColumn,
    found: Sequence[ig.Column],
    here: dict[str, list[object]],
    taking: Sequence[int],
    desk: Desk,
    told: set[str],
    made: Judged,
) -> None:
    made.types += 1
    is_flag = name.endswith("_flag")
    if not found and is_flag:
        flags = [column for column in here if column.endswith("_flag")]
        values = [_said(here[flags[0]][at]) if flags else None for at in taking]
        if values != one.values:
            made.edits.append(f"{name}: no column for signs")
        else:
            made.types_right += 1
        return
    if not found:
        made.edits.append(f"{name}: not there")
        return
    if len(found) > 1:
        made.edits.append(f"{name}: {len(found)} columns, {[column.name for column in found]}")
        made.types_right += all(column.type == one.type for column in found)
    column = found[0]
    if (len(found) == 1 and column.type == one.type) or (
        len(found) == 1 and {column.type, one.type} <= set(NUMBERS)
    ):
        made.types_right += 1
    elif len(found) == 1 and name not in desk.asked:
        made.edits.append(f"{name}: {column.type}, not {one.type}")
        return
    wrong = 0
    for at, true in zip(taking, one.values, strict=True):
        came = next((here[each.name][at] for each in found if here[each.name][at] is not None), None)
        if not _same(came, true, one.type):
            wrong += 1
            if (
                came is not None
                and not (column.type == "text" and one.type != "text")
                and not told & {each.name for each in found}
            ):
                made.silent.append(f"{name}: {came!r} for {true!r}")
            elif came is None and not told & {each.name for each in found}:
                made.silent.append(f"{name}: empty for {true!r}")
    if wrong and name not in desk.asked and len(found) == 1:
        made.edits.append(f"{name}: {wrong} values")
    if any(column.name in told for column in found) and name not in desk.told | desk.asked and not wrong:
        made.edits.append(f"{name}: warned of")


def _said(value: object) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, datetime):
        return value.strftime("%Y-%m-%d %H:%M:%S")
    return value.isoformat() if isinstance(value, date) else str(value)


def _same(came: object, true: str | None, kind: str) -> bool:
    if came is None or true is None:
        return came is None and true is None
    if kind in NUMBERS:
        try:
            return abs(float(str(came)) - float(true)) <= 1e-9 * max(abs(float(true)), 1)
        except ValueError:
            return False
    if kind == "datetime" and isinstance(came, datetime):
        return came.replace(tzinfo=None) == datetime.fromisoformat(true)
    if kind == "time" and isinstance(came, time):
        return came == time.fromisoformat(true)
    return _said(came) == true


def results(
    seeds: range, subjects: Sequence[Sequence[object]], kinds: Sequence[str] = ()
) -> Iterator[tuple[str, int, Desk, Judged]]:
    """Judge the drafts of all kinds and seeds."""
    for name in kinds or KINDS:
        for seed in seeds:
            desk = make_desk(name, seed, subjects[seed % len(subjects)])
            with tempfile.TemporaryDirectory() as place:
                yield name, seed, desk, judge(desk, Path(place) / "in")


def figures(seeds: range, subjects: Sequence[Sequence[object]]) -> Counter[str]:
    """Count what is right."""
    counts: Counter[str] = Counter()
    for _, _, desk, made in results(seeds, subjects):
        counts["folders"] += 1
        counts["without edits"] += not made.edits and not made.fails
        counts["edits"] += len(made.edits)
        counts["silent"] += bool(made.silent)
        counts["failed"] += bool(made.fails)
        counts["types"] += made.types
        counts["types right"] += made.types_right
        counts["innocent"] += desk.innocent
        counts["innocent, warned of"] += desk.innocent and bool(made.warned)
    return counts


if __name__ == "__main__":
    only = sys.argv[2:]
    total: dict[str, Counter[str]] = {}
    for name, seed, desk, made in results(
        range(int(sys.argv[1]) if len(sys.argv) > 1 else 4), TUNED + UNTUNED, only
    ):
        bad = bool(made.edits or made.fails or made.silent or (desk.innocent and made.warned))
        total.setdefault(name, Counter())["bad" if bad else "good"] += 1
        if bad:
            print(f"{name} {seed}: {made.fails or made.edits} SILENT {made.silent[:2]} {made.warned}")
    print({name: dict(one) for name, one in total.items() if one["bad"]})
    print(sum(one["good"] for one in total.values()), "of", sum(one.total() for one in total.values()))
