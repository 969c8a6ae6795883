"""Attacks on tables and records: random histories, and kills at any moment. `make attack` runs many; the tests some.

A history changes sources, plan, table and record at random, and runs the plan over what is there. Each run has to give the
bytes of a run from nothing, or to refuse, and then to leave everything as it was. A kill may leave the table of before
or the new one, with its own record, and nothing in between.
"""

import contextlib
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import integrum as ig
from months import Months, files_of, plan_text

OUTPUTS = ("o.csv", "o.parquet", "{lake}.csv", "o.arrow", "o.csv.gz", "o.sqlite")
# what a kill hits: a run over a table that is there, at the call with this number
DIE = """
import os, sys
import integrum as ig
from integrum.publish import swap

class Dying:
    left = int(sys.argv[1])
    def __getattr__(self, name):
        real = getattr(os, name)
        if name not in ("rename", "replace", "link", "unlink", "fsync", "open", "listdir"):
            return real
        def call(*given, **more):
            Dying.left -= 1
            if Dying.left < 0:
                os._exit(9)
            return real(*given, **more)
        return call

swap.os = Dying()
ig.assemble("plan.toml", to="out/o.csv")
"""


class History:
    """A folder with sources, a plan, and the table and record of earlier runs; all from a seed."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.folder, self.chance = folder, random.Random(seed)
        self.months = Months(folder, self.chance)
        self.to = self.chance.choice(OUTPUTS)
        self.is_edited = False
        self._plan()

    def step(self) -> str:
        """Let something happen, run the plan, and compare with a run from nothing; says what came of it."""
        chance = self.chance
        self.months.pass_on()
        if chance.random() < 0.2:
            self._plan()
        if chance.random() < 0.5 and (self.folder / "out").exists():
            chance.choice(
                (self._edit_table, self._edit_metadata, self._damage, self._damage, self._lose, self._notes)
            )()
        how = {
            "afresh": chance.random() < 0.1,
            "only_add": chance.random() < 0.15,
            "replace": chance.random() < 0.3,
        }
        how["only_add"] &= not how["replace"]
        before = _bytes_of(self.folder)
        try:
            outcome = ig.assemble(self.folder / "plan.toml", to=self.folder / "out" / self.to, **how)
        except ig.OutputError as error:
            assert _bytes_of(self.folder) == before, f"it refused, and changed something: {error}"
            # only what no run wrote, or old rows, are a reason
            assert self.is_edited or self._left or how["only_add"] or _has_lost_its_record(before), str(error)
            return "refused"
        except ig.NothingFound:
            assert _bytes_of(self.folder) == before
            return "nothing found"
        if outcome.status == 2:
            assert _bytes_of(self.folder) == before
            return "nothing assembled"
        self.is_edited = False
        self._compare()
        self._look()
        return f"taken over: {outcome.taken_over > 0}"

    def _compare(self) -> None:
        with tempfile.TemporaryDirectory() as fresh:
            shutil.copytree(self.folder / "in", Path(fresh, "in"))
            shutil.copy2(self.folder / "plan.toml", fresh)
            ig.assemble(Path(fresh, "plan.toml"), to=Path(fresh, "out", self.to))
            theirs, ours = files_of(Path(fresh, "out")), files_of(self.folder / "out")
        for name, data in theirs.items():
            if not name.endswith(("run.json", "manifest-blake3.txt")):
                assert ours.get(name) == data, f"{name} is not as of a run from nothing"
        kept = [name for name in ours if name not in theirs]
        assert all("-changed" in name or "notes" in name or name in self._left for name in kept), kept

    def _look(self) -> None:
        """Every command takes what is there."""
        out = self.folder / "out"
        record = next(out.glob("*-record"))
        looks = [
            lambda: ig.verify(record),
            lambda: str(ig.overview(record)),
            lambda: not ig.changes(record).sources,
            lambda: str(ig.trace(record, where="depth > 1")),
        ]
        assert self.chance.choice(looks)()
        if self.chance.random() < 0.03:
            assert ig.report(record, replace=True)

    def _plan(self) -> None:
        (self.folder / "plan.toml").write_text(plan_text(self.chance))

    @property
    def _tables(self) -> list[Path]:
        return [path for path in (self.folder / "out").iterdir() if path.is_file() and path.suffix != ".json"]

    _left: frozenset[str] = frozenset()

    def _edit_table(self) -> None:
        if tables := self._tables:
            path = self.chance.choice(sorted(tables))
            data = path.read_bytes()
            path.write_bytes(
                self.chance.choice((data + b"\n", data[:-3], b"mine", data[:5] + b"?" + data[6:]))
            )
            self.is_edited = True
            # where a run does not make it any more, it stays
            self._left |= {path.name, f"{path.name}-metadata.json"}

    def _edit_metadata(self) -> None:
        if some := sorted((self.folder / "out").glob("*-metadata.json")):
            path = self.chance.choice(some)
            path.write_bytes(path.read_bytes() + b" ")
            self.is_edited = True
            self._left |= {path.name}

    def _damage(self) -> None:
        """Damage a file of the record."""
        for record in (self.folder / "out").glob("*-record"):
            path = self.chance.choice(sorted(path for path in record.iterdir() if path.is_file()))
            data = path.read_bytes()
            at = self.chance.randrange(len(data) + 1)
            lines = data.split(b"\n")
            self.chance.shuffle(lines)
            new = self.chance.choice((b"", data[:at], data + data, b"\xff" * 99, b"\n".join(lines), None))
            path.unlink() if new is None else path.write_bytes(new)

    def _lose(self) -> None:
        """The record goes, or a table."""
        records = sorted((self.folder / "out").glob("*-record"))
        if records and self.chance.random() < 0.3:
            shutil.rmtree(records[0])
        elif tables := self._tables:
            self.chance.choice(sorted(tables)).unlink()

    def _notes(self) -> None:
        for record in (self.folder / "out").glob("*-record"):
            (record / "notes.txt").write_text("mine")


def _bytes_of(folder: Path) -> dict[str, bytes]:
    return {str(path): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def _has_lost_its_record(files: dict[str, bytes]) -> bool:
    """Whether neither run.json nor the manifest can say any more what a run wrote."""
    good = [name for name in files if name.endswith(("/run.json", "/manifest-blake3.txt"))]
    return len(good) < 2 or any(b'"made_by"' not in files[name] for name in good if name.endswith("run.json"))


def history(seed: int) -> str:
    """One history of a few steps; what came of each."""
    with tempfile.TemporaryDirectory() as folder:
        one = History(Path(folder), seed)
        said = []
        for number in range(5):
            try:
                said.append(one.step())
            except Exception as error:
                raise AssertionError(
                    f"seed {seed}, step {number}: {type(error).__name__}: {error}"
                ) from error
        return ", ".join(said)


def prepared(folder: Path) -> dict[str, bytes]:
    """A folder with a table, its record, and a source more; gives what is there, and what a run would make of it."""
    (folder / "in").mkdir()
    rows = "".join(f"2024-05-{day:02},{day / 4}\n" for day in range(1, 29)) * 200
    for name in "abc":
        (folder / "in" / f"{name}.csv").write_text("day,depth\n" + rows)
    (folder / "plan.toml").write_text(
        'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "day"\ntype = "date"\n'
        '[[columns]]\nname = "depth"\ntype = "number"\n[rules]\nduplicates = "keep"\n'
    )
    ig.assemble(folder / "plan.toml", to=folder / "out" / "o.csv")
    before = files_of(folder / "out")
    (folder / "in" / "d.csv").write_text("day,depth\n2024-06-01,1\n")
    return before


def kill(seed: int) -> str:
    """Kill a run at a moment of chance, go on with some command, and look what is there."""
    chance = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        before = prepared(folder)
        if chance.random() < 0.6:
            command = [sys.executable, "-c", DIE, str(chance.randrange(80))]
            subprocess.run(command, cwd=folder, capture_output=True, check=False, timeout=60)
        else:
            command = [sys.executable, "-m", "integrum", "assemble", "plan.toml", "--to", "out/o.csv"]
            run = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(chance.random() * 1.2)
            run.send_signal(chance.choice((signal.SIGKILL, signal.SIGTERM, signal.SIGINT)))
            run.wait()
        if chance.random() < 0.3:  # the next command fails, and settles even so
            (folder / "in").rename(folder / "away")
            with contextlib.suppress(ig.NothingFound):
                ig.assemble(folder / "plan.toml", to=folder / "out" / "o.csv")
            (folder / "away").rename(folder / "in")
        else:
            out = folder / "out" / "o.csv"
            chance.choice(
                (
                    lambda: ig.overview(out),
                    lambda: ig.overview(out.with_name("o-record")),
                    lambda: ig.trace(out, 1),
                    lambda: ig.verify(out),
                    lambda: ig.report(out),
                    lambda: ig.changes(folder / "plan.toml"),
                    lambda: ig.read_record(out),
                )
            )()
        assert not list((folder / "out").glob(".*swap.json")), "a journal is left"
        assert _states(ig.verify(folder / "out" / "o.csv")) <= {"same"}, (
            "table and record do not belong together"
        )
        now = files_of(folder / "out")
        text = now["o.csv"]
        ig.assemble(folder / "plan.toml", to=folder / "out" / "o.csv", afresh=True)
        after = files_of(folder / "out")
        assert text in (before["o.csv"], after["o.csv"]), "torn"
        assert not [path for path in (folder / "out").iterdir() if path.name.startswith(".")], (
            "something is left over"
        )
        return "old" if text == before["o.csv"] else "new"


def _states(found: ig.Verification) -> set[str]:
    return {one.state for one in found.findings if one.what in ("table", "record")}


def _tried(work: Callable[[int], str], seed: int) -> str:
    try:
        return work(seed)
    except Exception as error:
        return f"FAILED: {work.__name__} {seed}: {error}"


def main(histories: int, kills: int) -> None:
    """Run many, and say what came of them."""
    for work, count in ((history, histories), (kill, kills)):
        seen: Counter[str] = Counter()
        start = time.monotonic()
        with ProcessPoolExecutor(os.cpu_count()) as pool:
            for said in pool.map(_tried, [work] * count, range(count), chunksize=4):
                seen.update([said] if said.startswith("FAILED") else said.split(", "))
        print(f"{work.__name__}: {count:,} in {time.monotonic() - start:,.0f} s; {dict(seen)}")


if __name__ == "__main__":
    main(*(int(each) for each in sys.argv[1:3]))
