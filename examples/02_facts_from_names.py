"""Facts from file names become columns, missing and misnamed files are reported, and each lake gets a file of its own."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo
from integrum.demo.loggers import LAKES, MONTHS

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))

# the columns are given; the layouts are drafted, as each lake has a logger of its own kind
draft = ig.draft(
    ig.Sources(
        str(folder / "loggers"),
        ids="{lake}_{month}_{serial}.csv",
        expect={"lake": LAKES, "month": MONTHS},
        constants={"project": "lake watch"},
        exclude=["* (1).csv"],
        leave_out=["battery"],
    ),
    columns=[
        ig.Column("lake", swap={"-": " "}, case="title"),
        ig.Column("time", "datetime", also=["date_time", "Date/Time"]),
        ig.Column("water_temp", "number", also=["Water Temp"]),
        ig.Column("oxygen", "number", missing=["n/a"]),
        ig.Column("depth", "number", also=["Depth"]),
    ],
)
print(ig.survey(draft.plan, contents=False).coverage)

outcome = ig.assemble(draft, to=folder / "by-lake" / "{lake}.parquet")
print(outcome)

# two months are missing: one was never sent, the other is there under another name
for problem in outcome.problems:
    if problem.severity != "note":
        print(problem)
        print(f"  {problem.hint}")
