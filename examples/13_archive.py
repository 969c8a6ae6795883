"""A folder for an archive: with its record, its plan and its sources, verified and made again on another machine."""

import shutil
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
about = ig.Dataset(
    title="Visits to five lakes",
    license="https://creativecommons.org/licenses/by/4.0/",
    people=[ig.Person("Orla Fenwick", affiliation="Lake Office")],
)
plan = replace(ig.draft(folder / "visits").plan, dataset=about)
table = folder / "visits.csv"
outcome = ig.assemble(plan, to=table)
print(outcome)
packed = ig.deposit(table, folder / "visits.zip", with_sources=True)

# another machine has nothing but the zip, and the seal from the paper
with tempfile.TemporaryDirectory() as elsewhere:
    there = shutil.copy(packed, elsewhere)
    found = ig.verify(there, again=True, seal=outcome.seal)
    print("\n".join(found.lines()))
sys.exit(0 if found else 1)
