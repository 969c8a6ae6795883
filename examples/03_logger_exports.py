"""Logger exports with a preamble, units, semicolons and decimal commas beside plain files; the preamble is data."""

import sys
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
loggers = folder / "loggers"

# how Integrum sees one of them
print(ig.look(loggers / "brindlemere" / "brindlemere_2024-04_00541.csv"))

plan = ig.Plan(
    sources=[
        ig.Sources(str(loggers), exclude=["brindlemere/**", "vessel-lake/**"], facts={"lake": "folder"}),
        ig.Sources(
            str(loggers / "brindlemere"),
            facts={"lake": "folder"},
            layout=ig.Layout(
                header_has=["Date/Time", "Water Temp"],
                units_row=True,
                encoding="cp1252",
                delimiter=";",
                decimal_mark=",",
                capture={"serial": "Serial No", "firmware": "Firmware"},
            ),
        ),
        ig.Sources(
            str(loggers / "vessel-lake"),
            exclude=["* (1).csv"],
            facts={"lake": "folder"},
            layout=ig.Layout(encoding="utf-16", delimiter="\t"),
        ),
    ],
    columns=[
        ig.Column("lake", swap={"-": " "}, case="title"),
        ig.Column("serial"),
        ig.Column("time", "datetime", also=["date_time", "Date/Time"]),
        ig.Column("water_temp", "number", also=["Water Temp"], unit="degC"),
        ig.Column("oxygen", "number", missing=["n/a"]),
    ],
    leave_out=["battery", "Depth"],  # known, and not wanted
)
outcome = ig.assemble(plan, to=folder / "loggers.parquet")
print(outcome)
print(outcome.to_pandas().groupby("lake")["water_temp"].agg(["count", "mean"]).round(2))
