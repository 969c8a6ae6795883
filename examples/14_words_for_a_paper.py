"""What was done, in words for the section "Methods" of a paper, from the record alone."""

import sys
import textwrap
from pathlib import Path

import integrum as ig
from integrum.demo.lakes import write_demo

folder = write_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes"))
print(ig.assemble(folder / "gauges", to=folder / "gauges.csv"))

# at any later time
for paragraph in ig.read_record(folder / "gauges.csv").methods.split("\n\n"):
    print(textwrap.fill(paragraph, 100), end="\n\n")
