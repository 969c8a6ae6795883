"""How well types, orders of dates, missing codes and units are told on made-up tables: python FILE [COUNT]."""

from __future__ import annotations

import random
import sys
import tempfile
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import integrum as ig
from written_tables import TUNED, UNSEEN, Subject, Truth, write_case

# unit of the plan, unit of the source, how a value of the first becomes one of the second
UNITS = (
    ("degC", "°F", lambda value: value * 9 / 5 + 32),
    ("degC", "K", lambda value: value + 273.15),
    ("m", "cm", lambda value: value * 100),
    ("m", "ft", lambda value: value / 0.3048),
    ("mg/L", "µg/l", lambda value: value * 1000),
    ("mg/L", "g/m3", lambda value: value),
    ("mS/cm", "uS cm-1", lambda value: value * 1000),
    ("hPa", "kPa", lambda value: value / 10),
    ("m/s", "km/h", lambda value: value * 3.6),
    ("m3/s", "L/s", lambda value: value * 1000),
    ("ug/L", "mg.l-1", lambda value: value / 1000),
    ("cm", "mm", lambda value: value * 10),
)
# units of several quantities
UNLIKE = {
    "mg/L": "mass in water", "ug/L": "mass in water", "m": "length", "cm": "length", "degC": "degC", "NTU": "NTU",
    "pH": "pH",
    "%": "%", "mmol/L": "mmol/L",
}  # fmt: skip
STRANGE = ("mg/L", "NTU", "pH", "m", "degC", "%", "mmol/L")


def measure(seeds: range, subjects: Sequence[Subject], misses: list[str] | None = None) -> Counter[str]:
    """Draft a plan for each made-up folder, and count what is right."""
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as place:
        for seed in seeds:
            folder = Path(place, str(seed))
            truths = write_case(folder, seed, subjects[seed % len(subjects)])
            draft = ig.draft(folder)
            drafted = {column.name: column for column in draft.plan.columns}
            for name, truth in truths.items():
                _judge(seed, name, truth, drafted.get(name), counts, misses)
            _units(seed, Path(place, f"u{seed}"), counts, misses)
    return counts


def _judge(
    seed: int,
    name: str,
    truth: Truth,
    column: ig.Column | None,
    counts: Counter[str],
    misses: list[str] | None,
) -> None:
    came = column.type if column else "nothing"
    orders = [column.date_order, *column.date_order_in] if column else []
    if truth.ambiguous and came in ("date", "datetime") and {*orders} - {""} == {truth.kind[:3]}:
        came, truth = (
            truth.type,
            replace(truth, order=truth.kind[:3]),
        )  # the steps between the times have shown it
    counts["types"] += 1
    counts["types right"] += came == truth.type
    if came != truth.type and misses is not None:
        misses.append(f"{seed} {name} ({truth.kind}): {truth.type}, came {came}")
    if truth.order or truth.ambiguous:
        order = next(filter(None, orders), "")
        counts["orders"] += 1
        counts["orders told"] += order == truth.order != ""
        counts["orders open"] += truth.ambiguous
        wrong = bool(order) and {*orders} - {""} != {truth.order}
        counts["orders wrong"] += wrong
        if wrong and misses is not None:
            misses.append(f"{seed} {name} ({truth.kind}): order {truth.order}, came {order}")
    if truth.type != "text" and truth.kind != "rare code":
        found = set(column.missing) if column else set()
        counts["codes"] += len(truth.missing)
        counts["codes right"] += len(truth.missing & found)
        counts["codes too many"] += len(found - truth.missing)
        if found != truth.missing and misses is not None:
            misses.append(
                f"{seed} {name} ({truth.kind}): codes {sorted(truth.missing)}, came {sorted(found)}"
            )


def _units(seed: int, folder: Path, counts: Counter[str], misses: list[str] | None) -> None:
    """A source in another unit is converted; one in a unit of another quantity is set aside."""
    draw = random.Random(seed)
    wanted, given, to = draw.choice(UNITS)
    strange = draw.choice([unit for unit in STRANGE if UNLIKE[unit] != UNLIKE.get(wanted, wanted)])
    values = [round(draw.uniform(0.5, 30), 2) for _ in range(12)]
    folder.mkdir()
    style = draw.choice(["name (unit)", "name [unit]", "units row"])
    for file, unit, some in (
        ("a", wanted, values),
        ("b", given, [to(each) for each in values]),
        ("c", strange, values),
    ):
        head = (
            f"x\n{unit}"
            if style == "units row"
            else f"x{' (' if '(' in style else ' ['}{unit}{')' if '(' in style else ']'}"
        )
        (folder / f"{file}.csv").write_text(head + "\n" + "".join(f"{each!r}\n" for each in some))
    also = (
        []
        if style == "units row"
        else [
            f"x{' (' if '(' in style else ' ['}{unit}{')' if '(' in style else ']'}"
            for unit in (wanted, given, strange)
        ]
    )
    layout = ig.Layout(units_row=style == "units row")
    plan = ig.Plan(
        [ig.Sources(str(folder), layout=layout)],
        [ig.Column("x", "number", unit=wanted, also=list(dict.fromkeys(also)))],
    )
    outcome = ig.assemble(plan)
    came = outcome.table["x"].to_pylist()
    converted = came[12:24] == values
    reasons = [one.reason for one in outcome.sources]
    right = converted and reasons == ["", "", "unit-differs"]
    counts["units"] += 1
    counts["units right"] += right
    if not right and misses is not None:
        misses.append(
            f"{seed} unit {given} -> {wanted}, strange {strange}, {style}: {reasons} {came[12:15]} {values[:3]}"
        )


def table(first: Counter[str], second: Counter[str]) -> str:
    """Both counts as a table of Markdown."""

    def share(counts: Counter[str], part: str, whole: str) -> str:
        return f"{100 * counts[part] / max(counts[whole], 1):.2f} % of {counts[whole]:,}"

    rows = [
        ("type right", "types right", "types"),
        ("order of day and month told", "orders told", "orders"),
        ("left open, as every date can be both", "orders open", "orders"),
        ("order wrong", "orders wrong", "orders"),
        ("missing codes found", "codes right", "codes"),
        ("taken for one by mistake, to those that are", "codes too many", "codes"),
        ("units right: converted, or set aside", "units right", "units"),
    ]
    lines = ["| | tuned | untuned |", "|---|---|---|"]
    lines += [
        f"| {name} | {share(first, part, whole)} | {share(second, part, whole)} |"
        for name, part, whole in rows
    ]
    return "\n".join(lines)


if __name__ == "__main__":
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 600
    said: list[str] = []
    tuned, untuned = (
        measure(range(count), TUNED, said),
        measure(range(450_000, 450_000 + count), (UNSEEN,), said),
    )
    print(table(tuned, untuned))
    if len(sys.argv) > 2:
        print("\n".join(said))
