"""Checks of the table are part of the plan; a strange value is traced to its line, and the run gets a page."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
table = folder / "loggers.parquet"

draft = ig.draft(ig.Sources(str(folder / "loggers"), ids="{lake}_{month}_{serial}.csv"))
plan = ig.Plan(
    draft.plan.sources,
    draft.plan.columns,
    checks=[
        ig.Check("one reading at a time", unique=["lake", "date_time"]),
        ig.Check("every lake, every month", complete=["lake", "month"]),
        ig.Check("plausible temperatures", column="water_temp", range=[0, 22], severity="warning"),
        ig.Check("no gaps", column="date_time", follow="2 d", within=["lake"], severity="warning"),
        ig.Check(column="serial", match="[0-9]{5}"),
        ig.Check(rows=[120, 200]),
    ],
)
outcome = ig.assemble(plan, to=table)
print(outcome.overview())
for problem in outcome.problems:
    if problem.code in ("not-unique", "combination-missing", "out-of-range", "gap-between-sources"):
        print(problem)

# from a strange value back to its line in the file
print(ig.trace(table, where="water_temp > 22 and lake == 'vessel-lake'", most=1))
print(f"the page about the run: {ig.report(table)}")
