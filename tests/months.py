"""A folder of logger files over some months: files come, go, change and are renamed; all from one seed."""

import json
import os
import random
from pathlib import Path

PLAN = """integrum = 1
[[sources]]
find = ["in/*_*.csv"]
ids = "{lake}_{month}.csv"
[sources.layout]
header_row = 2
footer_from = ["Total"]
capture = { serial = "Serial No" }
comment_mark = "#"
[[sources]]
find = ["in/wide/*.csv"]
wide = { headers = "20??", name = "year", value = "count" }
[[columns]]
name = "lake"
[[columns]]
name = "day"
type = "date"
also = ["Day"]
[[columns]]
name = "depth"
type = "number"
unit = "m"
also = [{ header = "depth (cm)", unit = "cm" }]
missing = ["-999", "n/a"]
[[columns]]
name = "state"
missing = ["-"]
[[columns]]
name = "good"
type = "boolean"
[[columns]]
name = "serial"
[[columns]]
name = "clock"
type = "time"
[[columns]]
name = "sent"
type = "datetime"
ZONE
[[columns]]
name = "count"
type = "integer"
[[columns]]
name = "nitrate"
type = "number"
censored = "below"
[[columns]]
name = "year"
type = "integer"
[rules]
unlisted = "UNLISTED"
bad_values = "BAD"
[[checks]]
unique = ["lake", "day"]
[[checks]]
column = "depth"
range = [0, 50]
severity = "warning"
[[checks]]
in_one_source = "all"
severity = "warning"
[[checks]]
column = "day"
steady = "1 d"
within = ["lake"]
severity = "warning"
"""
_HEADERS = (
    "day,depth,state,good",
    "Day,state,depth,good",
    "day,depth (cm),state,good",
    "day,depth,state,good,extra",
    "day,clock,sent,nitrate,count",
    "sent,nitrate,depth,clock,Day",
)
_STATES = ("ok", "ice", "-", '"a, b"', '"a ""q"""', '"two\nlines"', "", "é", "'=1")
_NAMES = [f"{lake}_{month:02}.csv" for lake in ("amber", "quillon", "hollow") for month in range(1, 6)]


def plan_text(chance: random.Random) -> str:
    """A plan of the folder, with some of its rules left to chance."""
    bad = chance.choice(("blank", "set-row-aside", "set-source-aside"))
    text = PLAN.replace("UNLISTED", chance.choice(("report", "keep"))).replace("BAD", bad)
    text = text.replace("ZONE", chance.choice(("", 'zone = "UTC"', 'spelling = "%Y-%m-%d %H:%M"')))
    return text + ("\n[provenance]\nsource_row = false\n" if chance.random() < 0.3 else "")


class Months:
    """The folder `in` below a folder."""

    def __init__(self, folder: Path, chance: random.Random) -> None:
        self.folder, self._chance = folder / "in", chance
        self.folder.mkdir()
        for name in chance.sample(_NAMES, 6):
            self._write(name)
        (self.folder / "wide").mkdir()
        for lake in ("vessel", "brindle"):
            self._widen(lake)

    def pass_on(self) -> None:
        """Let something happen, or nothing."""
        for _ in range(self._chance.randint(0, 3)):
            self._chance.choice(
                (
                    self._add,
                    self._correct,
                    self._append,
                    self._remove,
                    self._rename,
                    self._copy,
                    self._touch,
                    self._widen,
                )
            )()

    def _any(self) -> Path:
        return self._chance.choice(sorted(self.folder.glob("*.csv")))

    def _add(self) -> None:
        self._write(self._chance.choice(_NAMES))

    def _correct(self) -> None:
        path = self._any()
        path.write_text(path.read_text().replace("3.20", "3.30"))

    def _append(self) -> None:
        path = self._any()
        path.write_text(path.read_text().rstrip("\n") + "\n2024-01-01,1,ok,true\n")

    def _remove(self) -> None:
        if len(list(self.folder.glob("*.csv"))) > 3:
            self._any().unlink()

    def _rename(self) -> None:
        place = self.folder / self._chance.choice(_NAMES)
        if not place.exists():
            self._any().rename(place)

    def _copy(self) -> None:
        place = self.folder / self._chance.choice(_NAMES)
        if not place.exists():
            place.write_bytes(self._any().read_bytes())

    def _widen(self, lake: str = "vessel") -> None:
        numbers = [[str(self._chance.choice((1, 2, "", "x"))) for _ in range(3)] for _ in range(3)]
        lines = ["lake,2021,2022,2023", *(f"{lake},{','.join(each)}" for each in numbers)]
        (self.folder / "wide" / f"{lake}.csv").write_text("\n".join(lines) + "\n")

    def _touch(self) -> None:
        os.utime(self._any())

    def _write(self, name: str) -> None:
        chance = self._chance
        header = chance.choice(_HEADERS)
        lines = [f"Serial No: {chance.randint(1, 5)}" if chance.random() < 0.9 else "", header]
        for _ in range(chance.choice((0, 1, 2, 5, 30))):
            lines += [header] if chance.random() < 0.02 else []
            lines += ["# a comment"] if chance.random() < 0.02 else []
            lines += [""] if chance.random() < 0.02 else []
            cells = [self._cell(each) for each in header.split(",")]
            lines.append(",".join([*cells, "x"] if chance.random() < 0.02 else cells))
        lines += ["Total,,"] if chance.random() < 0.2 else []
        end = "\n" if chance.random() < 0.9 else ""
        (self.folder / name).write_text("\n".join(lines) + end)

    def _cell(self, header: str) -> str:
        chance = self._chance
        if header.lower() == "day":
            return (
                f"2024-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}"
                if chance.random() < 0.95
                else "soon"
            )
        if header.startswith("depth"):
            return chance.choice(("-999", "n/a", "deep", f"{chance.random() * 60:.2f}", "3.20", "7", ""))
        if header == "clock":
            return chance.choice(("10:30", "7:05", "23:59:59.25", "noon", ""))
        if header == "sent":
            return chance.choice(
                ("2024-05-01 10:30", "2024-05-01T10:30:05.5", "2024-05-01 10:30+02:00", "", "x")
            )
        if header == "nitrate":
            return chance.choice(("<0.05", "0.1", "1e-3", "-0.0", ""))
        if header == "good":
            return chance.choice(("true", "false", "yes", ""))
        return chance.choice(_STATES) if header == "state" else str(chance.randint(0, 99))


def files_of(folder: Path) -> dict[str, bytes]:
    """All files below a folder; of ``run.json`` all but the times."""
    found = {}
    for path in sorted(folder.rglob("*")):
        if path.is_file():
            data = path.read_bytes()
            if path.name == "run.json":
                run = json.loads(data)
                for key in ("started", "seconds", "blake3"):
                    run.pop(key)
                for one in run["outputs"]:
                    one.pop("modified")
                data = json.dumps(run).encode()
            found[path.relative_to(folder).as_posix()] = data
    return found
