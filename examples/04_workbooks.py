"""Field visits: a workbook per lake, a sheet per month, with covers, merged titles and means; back into one workbook."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))

plan = ig.Plan(
    sources=[
        ig.Sources(
            str(folder / "field"),
            sheets=["!Cover"],
            ids="field-visits_{lake}_{year}.xlsx/{month}",  # the sheet is the last part of a path
            layout=ig.Layout(
                header_row=3,
                header_rows=2,
                first_column="B",
                last_column="J",
                footer_from="Mean",
            ),
        )
    ],
    columns=[
        ig.Column("lake", swap={"-": " "}, case="title"),
        ig.Column("day", "date", also=["Date"]),
        ig.Column("time", also=["Time"]),
        ig.Column("team", also=["Team"]),
        ig.Column("secchi", "number", also=["Secchi (m)"], unit="m"),
        ig.Column("surface_temp", "number", also=["Surface Temp (°C)"], unit="degC"),
        ig.Column("bottom_temp", "number", also=["Bottom Temp (°C)"], unit="degC"),
        ig.Column("surface_oxygen", "number", also=["Surface Oxygen (mg/L)"]),
        ig.Column("bottom_oxygen", "number", also=["Bottom Oxygen (mg/L)"]),
        ig.Column("remarks", also=["Remarks"]),
    ],
    provenance=ig.Provenance(sheet=False),  # `month` says the same
)
outcome = ig.assemble(plan, to=folder / "field.xlsx")
print(outcome)
print(*(problem for problem in outcome.problems if problem.severity != "note"), sep="\n")
print(outcome.to_pandas().groupby("lake")[["surface_temp", "bottom_temp"]].mean().round(1))
