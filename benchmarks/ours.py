"""The same work with Integrum: the plan that names the columns and their types."""

from __future__ import annotations

import sys
from pathlib import Path

import integrum as ig

SMALL = [
    ig.Column("time", "datetime", also=["Time"]),
    ig.Column("lake", also=["Lake"]),
    ig.Column("depth", "number", also=["Depth"]),
    ig.Column("water_temp", "number", also=["Water Temp"]),
    ig.Column("oxygen", "number", also=["Oxygen", "oxygen_mgl"]),
    ig.Column("ph", "number", also=["pH"]),
    ig.Column("serial", "integer", also=["Serial"]),
    ig.Column("remark", also=["Remark"]),
]
LARGE = [
    ig.Column("time", "datetime"),
    ig.Column("lake"),
    ig.Column("logger", "integer"),
    ig.Column("depth", "number"),
    *(ig.Column(f"channel_{number}", "number") for number in range(1, 9)),
    ig.Column("flag", "boolean"),
]

if __name__ == "__main__":
    columns = LARGE if sys.argv[1] == "large" else SMALL
    print(ig.assemble(ig.Plan([ig.Sources(sys.argv[2])], columns), to=Path(sys.argv[3])))
