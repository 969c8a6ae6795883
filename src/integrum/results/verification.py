"""Whether all is as a record says: one finding for each thing that was looked at."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from integrum.problems import notebook
from integrum.problems.found import Entries
from integrum.problems.problem import counted, near, visible

SAME, CHANGED, MISSING, NEW, UNKNOWN = ("same", "changed", "missing", "new", "unknown")
_MOST = 10


@dataclass(frozen=True)
class Verified:
    """One thing that was looked at.

    Attributes
    ----------
    what
        ``"deposit"``, ``"table"``, ``"plan"``, ``"record"``, ``"source"``, ``"code"``, ``"seal"``, or with a full run
        ``"table again"`` and ``"record again"``.
    name
        Which: the name of a file or a source.
    state
        ``"same"``, ``"changed"``, ``"missing"``, of a source ``"new"``, or ``"unknown"``: it is listed, but the run has not
        written it.
    """

    what: str
    name: str
    state: str

    def __str__(self) -> str:
        return f"{self.name}: {_SAID[self.state]}"


_SAID = {
    SAME: "as recorded",
    CHANGED: "changed",
    MISSING: "missing",
    NEW: "new, and not in the table",
    UNKNOWN: "not written by this run",
}
# what the lines call the things, one and several
_THINGS = {
    "deposit": ("file of the deposit", "files of the deposit"),
    "table": ("table", "tables"),
    "plan": ("plan", "plans"),
    "record": ("file of the record", "files of the record"),
    "source": ("source", "sources"),
    "code": ("file of code", "files of code"),
    "seal": ("seal", "seals"),
    "table again": ("table of a full run", "tables of a full run"),
    "record again": ("record file of a full run", "record files of a full run"),
}


@dataclass(frozen=True)
class Verification:
    """Whether a table, its sources and its plan are still those of its record.

    Attributes
    ----------
    record
        The folder of the record.
    findings
        What was looked at, one by one.
    again
        Whether the table was made again to compare.
    remarks
        What else is worth knowing, such as other versions of the software.
    seal
        The seal of the table and its record, as they are now.

    Examples
    --------
    >>> some = [Verified("table", "lakes.csv", "same"), Verified("source", "2021.csv", "changed")]
    >>> print(Verification(Path("lakes-record"), Entries(some)))
    table: lakes.csv is as recorded
    sources: 1 of 1 is not as recorded
      2021.csv: changed
    not verified: 1 thing is not as recorded
    """

    record: Path
    findings: Entries[Verified] = field(default_factory=lambda: Entries((), Verified))
    again: bool = False
    remarks: tuple[str, ...] = ()
    seal: str = ""

    @property
    def is_good(self) -> bool:
        """Whether all is as recorded."""
        return all(one.state == SAME for one in self.findings)

    def __bool__(self) -> bool:
        """Whether all is as recorded."""
        return self.is_good

    def lines(self, most: int = _MOST) -> list[str]:
        """All of it line by line; at most so many things of a kind."""
        lines: list[str] = []
        for what, thing in _THINGS.items():
            some = [one for one in self.findings if one.what == what]
            if some:
                lines += _about(thing, some, most)
        lines += self.remarks
        if self.seal and self.is_good:
            lines.append(f"its seal: {self.seal}")
        wrong = sum(one.state != SAME for one in self.findings)
        if not wrong:
            more = "; a full run gives the same bytes" if self.again else ""
            lines.append(f"verified: the table is what the record says{more}")
        else:
            lines.append(
                f"not verified: {counted(wrong, 'thing')} {'is' if wrong == 1 else 'are'} not as recorded"
            )
        return lines

    def to_dict(self) -> dict[str, Any]:
        """All of it as plain data, for JSON."""
        return {
            "record": str(self.record),
            "verified": self.is_good,
            "again": self.again,
            "seal": self.seal,
            "findings": [asdict(one) for one in self.findings],
            "remarks": list(self.remarks),
        }

    def __repr__(self) -> str:
        return f"<Verification of {near(self.record)}: {self.lines()[-1]}>"

    def __str__(self) -> str:
        return visible("\n".join(self.lines()))

    def _repr_html_(self) -> str:
        *lines, last = self.lines(0)
        wrong = [(one.what, one.name, one.state) for one in self.findings if one.state != SAME]
        table = notebook.table(["what", "which", "state"], wrong) if wrong else ""
        said = [] if wrong else lines
        return notebook.view(notebook.title(last), *map(notebook.line, said), table)


def _about(things: tuple[str, str], some: list[Verified], most: int) -> Iterable[str]:
    wrong = [one for one in some if one.state != SAME]
    thing, many = things
    if not wrong:
        if len(some) == 1:
            yield f"{thing}: {some[0].name} is as recorded"
        else:
            yield f"{many}: all {len(some):,} are as recorded"
        return
    if len(some) == 1 and thing not in ("source",):
        yield f"{thing}: {some[0]}"
        return
    there = [one for one in some if one.state != NEW]
    bad = sum(one.state != NEW for one in wrong)
    if bad:
        yield f"{many}: {bad:,} of {len(there):,} {'is' if bad == 1 else 'are'} not as recorded"
    else:
        more = "1 new one is" if len(wrong) == 1 else f"{len(wrong):,} new ones are"
        yield f"{many}: all {len(there):,} are as recorded, and {more} there"
    yield from (f"  {one}" for one in wrong[:most])
    if len(wrong) > most:
        yield f"  and {len(wrong) - most:,} more"
