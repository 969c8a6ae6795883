"""The first table: one folder of CSV files, whose headers differ a little, becomes one CSV."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))

outcome = ig.assemble(folder / "loggers", to=folder / "loggers.csv")
print(outcome)
print(outcome.to_pandas().groupby("source")["water_temp"].mean().round(2).head())
