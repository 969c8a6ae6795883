"""A table in other libraries: as a data frame with the types that you want, in batches, and opened again later."""

import sys
from pathlib import Path

import pyarrow as pa

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
outcome = ig.assemble(folder / "visits", to=folder / "visits.csv")
print(outcome)

frame = outcome.to_pandas("nullable", as_categories=["lake", "weather"], dates_with_time=True)
print(frame.dtypes)
print(frame.groupby(frame["day"].dt.year)["secchi_depth"].describe().round(2))

# later, from the file alone: nothing is guessed, as the record knows the types
table = ig.open_table(folder / "visits.csv")
print(table.schema.field("day").type, table.table.num_rows)

# a table that does not fit in memory
print(sum(batch.num_rows for batch in table.batches()))

# any library that speaks the Arrow C stream protocol takes it as it is
print(pa.table(outcome).num_columns)
