"""A workbook for colleagues: the table with real dates, and sheets for the codebook, the problems and the sources."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
outcome = ig.assemble(folder / "field", to=folder / "field.xlsx")
print(outcome)

# when it comes back, its types are known
print(ig.open_table(folder / "field.xlsx").to_pandas(dates_with_time=True).dtypes)
