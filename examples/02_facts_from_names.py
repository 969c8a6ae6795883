"""Facts from file names become columns; what is absent or misnamed is said; one output for each lake."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import MONTHS, write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
lakes = ["Ambermere", "Quillon Tarn", "Vessel Lake", "Hollow Water", "Brindlemere"]

plan = ig.Plan(
    sources=[
        ig.Sources(
            str(folder / "loggers"),
            ids="{lake}_{month}_{serial}.csv",
            expect={"lake": lakes, "month": MONTHS},
            constants={"project": "lake watch"},
        )
    ],
    columns=[
        ig.Column("lake", swap={"-": " "}, case="title", required=True),
        ig.Column("time", "datetime", also=["date_time", "Date/Time"]),
        ig.Column("water_temp", "number", also=["Water Temp"]),
        ig.Column("oxygen", "number", missing=["n/a"]),
        ig.Column("depth", "number", also=["Depth"]),
    ],
    rules=ig.Rules(misnamed="set-source-aside"),
)

print(ig.survey(plan, contents=False).coverage)
outcome = ig.assemble(plan, to=folder / "by-lake" / "{lake}.parquet")
print(outcome)
for problem in outcome.problems:
    if problem.severity == "error":
        print(problem)
