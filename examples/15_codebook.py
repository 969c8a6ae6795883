"""A codebook: descriptions stand in the plan, all else the run has found out."""

import sys
from dataclasses import replace
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
said = {
    "gauge": "the number on the gauge",
    "level (m)": "above the mark on the gauge",
    "ice": "whether there was ice",
}
plan = ig.draft(folder / "gauges").plan
plan = replace(plan, columns=[replace(one, description=said.get(one.name, "")) for one in plan.columns])
table = folder / "gauges.csv"
print(ig.assemble(plan, to=table))

for column in ig.read_record(table).codebook:
    print(
        f"{column.name} ({column.type}{f', {column.unit}' if column.unit else ''}): {column.description or '-'}"
    )
    for line in (column.range, *column.missing, *map(str, column.others), *column.converted):
        print(f"    {line}")
page = ig.report(table)
print(f"pages: {page.with_name('codebook.html')} and codebook.md")
