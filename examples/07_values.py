"""Readings of gauges that five observers wrote in five ways become one table of real dates, times, numbers and booleans."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))

# what the values of each column show, in all sources together
for column in ig.survey(folder / "gauges").columns:
    print(f"{column.name}: {column.type}")
    for line in column.said:
        print(f"  {line}")

# the same with the decisions written down
plan = ig.Plan(
    sources=[
        ig.Sources(str(folder / "gauges"), exclude=["gauge_quillon-tarn.csv"]),
        ig.Sources(
            str(folder / "gauges" / "gauge_quillon-tarn.csv"),
            layout=ig.Layout(delimiter=";", decimal_mark=",", thousands_mark=" "),
        ),
    ],
    columns=[
        ig.Column("gauge"),
        ig.Column("read_at", "datetime", from_=["day", "clock"], date_order="dmy", spelling="%Y-%m-%d %H:%M"),
        ig.Column(
            "level",
            "number",
            unit="m",
            also=["level (m)", "level (cm)", ig.Also("level", unit="cm", in_="gauge_hollow-water.csv")],
            missing=["n/a", "-", "-999"],
        ),
        ig.Column("outflow", "number", unit="L/s", also=["outflow (L/s)"], censored="outflow_sign"),
        ig.Column("ice", "boolean"),
        ig.Column("shore", case="lower", values={"open wather": "open water"}),
    ],
)
outcome = ig.assemble(plan, to=folder / "gauges.parquet")
print(outcome)
print(outcome.to_pandas().groupby("gauge")["level"].describe().round(2))
