"""The same table from two processes: a folder of Parquet files, divided by lake, and a line that shows how far it is."""

import sys
from concurrent.futures import ProcessPoolExecutor

import integrum as ig
from integrum.demo.lakes import write_demo

if __name__ == "__main__":  # the processes read this file, too
    folder = write_demo(sys.argv[1] if len(sys.argv) > 1 else "demo-lakes")
    draft = ig.draft(folder / "loggers", ids="{lake}_{month}_{serial}.csv", exclude="*(final)*")
    with ProcessPoolExecutor(2) as processes:
        outcome = ig.assemble(
            draft, to=f"{folder}/loggers.parquet/lake={{lake}}/", executor=processes, watch=ig.Meter()
        )
    print(outcome)
    for part in outcome.parts:
        assert part.output
        print(f"{part.output.name}: {part.rows:,} rows in {len(list(part.output.iterdir()))} file")
