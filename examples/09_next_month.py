"""A month later: see what is different, take it into the table, and prove that the table is what the plan gives."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
plan = ig.Plan(
    [ig.Sources([str(folder / "visits")], ids="visits_{year}.csv", leave_out=["visit", "ice"])],
    [
        ig.Column("day", "date"),
        ig.Column("lake"),
        ig.Column("secchi_depth", "number", also=["Secchi Depth"], unit="m"),
        ig.Column("weather"),
    ],
)
table = folder / "visits.csv"
ig.assemble(plan, to=table)

# a correction, and a visit that was written down late
visits = folder / "visits" / "visits_2024.csv"
text = visits.read_text(encoding="utf-8")
visits.write_text(
    text.replace(",calm", ",rain", 1) + "24-031,2024-10-07,Ambermere,3.1,false,calm\n", encoding="utf-8"
)

found = ig.changes(table)
print(found)
for one in found.of("changed"):
    print(one.source, "-", one.said)

outcome = ig.assemble(plan, to=table)
print(outcome)

print(f"{outcome.taken_over} of {len(outcome.sources)} sources were not read again")
print(ig.verify(table, again=True))
