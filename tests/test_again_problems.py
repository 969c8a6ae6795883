"""Whatever is taken over, the problems are those of a full run: for every code, from the table of codes."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

import books
import integrum as ig
from integrum.problems.codes import CODES
from problem_cases import CASES

_CHOICE = ("ids", "sheets", "exclude", "expect", "access")
# found while a survey guesses or a draft decides: a run of a plan that was read does not say it again
_NOT_OF_RUNS = {name for name, one in CODES.items() if one.scope in ("guess", "draft")}


def beside(folder: Path, _: Any) -> ig.Outcome:
    """A cell below no header among the rows of a sheet; the case for the docs has it outside of the table."""
    rows = [["lake", "depth"], ["Ambermere", 3.2, None, "who was that?"], ["Vessel Lake", 4.5]]
    (folder / "a.xlsx").write_bytes(books.sheets(May=rows))
    return ig.assemble(ig.Plan([ig.Sources(str(folder))], [ig.Column("lake"), ig.Column("depth", "number")]))


OTHERS = {"beside-the-table": beside}


class Again:
    """Assembles each time to a file, three times over, and compares what is said."""

    def __init__(self, folder: Path, assemble: Callable[..., ig.Outcome]) -> None:
        self._folder, self._assemble = folder, assemble
        self.said: set[str] = set()
        self.taken = self.runs = 0

    def __call__(self, what: Any, to: Any = None, **more: Any) -> ig.Outcome:
        """Stands in for `integrum.assemble`."""
        first = self._assemble(what, to, **more)
        self.runs += 1
        place = str(to) if to is not None else f"{self._folder}/again-{self.runs}/out.csv"
        if isinstance(what, ig.Draft):
            what = what.plan
        elif not isinstance(what, ig.Plan):
            choice = {name: more.pop(name) for name in _CHOICE if name in more}
            plan = self._folder / f"plan-{self.runs}.toml"
            ig.draft(what, **choice).save(plan)
            what = plan
        self._same(what, place, more, every=True)
        self._add(self._folder / "in")
        self._same(what, place, more, every=False)
        return first

    def _same(self, what: Any, place: str, more: dict[str, Any], every: bool) -> None:
        """A run that takes over all, or some, says what a full run says."""
        full = self._assemble(what, place, **more) if every else None
        run = self._assemble(what, place, **more)
        full = full or self._assemble(what, place, afresh=True, **more)
        assert [*map(str, run.problems)] == [*map(str, full.problems)]
        assert list(run.problems) == list(full.problems)
        assert run.status == full.status
        if run.taken_over:
            self.said |= {one.code for one in full.problems}
            self.taken += 1

    def _add(self, folder: Path) -> None:
        """Another source, which is like the first one."""
        small = (path for path in sorted(folder.glob("*.csv")) if path.stat().st_size < 1 << 20)
        first = next(small, None)
        text = first.read_bytes() + b"\n\n" if first else b"lake,depth\nHollow Water,1.5\n"
        (folder / "zz_1999.csv").write_bytes(text)


@pytest.mark.parametrize("code", sorted(set(CODES) - _NOT_OF_RUNS))
def test_the_same_is_said(code: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    again = Again(tmp_path, ig.assemble)
    (tmp_path / "in").mkdir()
    monkeypatch.setattr(ig, "assemble", again)
    found = OTHERS.get(code, CASES[code])(tmp_path / "in", monkeypatch)
    assert code in {one.code for one in found.problems}
    assert again.runs
    # what is found in rows, or above them, is known to a run that does not read them; to take rows once, all are read
    if code != "row-again" and CODES[code].scope in ("rows", "above"):
        assert again.taken == 2 and code in again.said
