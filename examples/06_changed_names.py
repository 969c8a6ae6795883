"""Laboratory results whose columns were renamed over the years; plankton counts with a column per month become rows."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))

# which names may mean the same column, and why
for guess in ig.survey(folder / "lab").guesses:
    print(f"{guess.score:.2f}  {guess.header} may be {guess.column}: {guess.because}")

# the first run guesses the rest, accepts guesses that are right in at least nine of ten cases, and keeps its plan; every
# later run uses that plan unchanged, and reports headers that are not in it
draft = ig.draft(
    ig.Sources(str(folder / "lab"), leave_out=["turb*", "Turb*", "nitrate*", "NO3*"]),
    columns=[
        ig.Column("sample", required=True),
        ig.Column("lake"),
        ig.Column("sampled", "date"),
        ig.Column(
            "total_phosphorus", "number", also=["TP (µg/L)", "tp_ug_l"], censored="total_phosphorus_sign"
        ),
        ig.Column("chlorophyll_a", "number", also=["Chl a (µg/L)", "chla_ug_l"]),
    ],
    accept=0.9,
    keep=folder / "lab.toml",
)
for line in draft.new:
    print(line)
print(ig.assemble(draft, to=folder / "lab.csv"))

# plankton: a row for each count in 2022, a column per month since
plan = ig.Plan(
    sources=[ig.Sources(str(folder / "plankton"), wide=ig.Wide("20??-??", name="month", value="count"))],
    columns=[ig.Column("lake"), ig.Column("species"), ig.Column("month"), ig.Column("count", "integer")],
)
outcome = ig.assemble(plan, to=folder / "plankton.parquet")
print(outcome)
print(outcome.to_pandas().groupby("species")["count"].sum())
