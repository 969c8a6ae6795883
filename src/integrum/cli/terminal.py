"""What is written where: results to standard output, everything else to standard error."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn

STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}

out = Console(soft_wrap=True, highlight=False)
err = Console(stderr=True, soft_wrap=True, highlight=False)


def is_terminal(console: Console) -> bool:
    """Whether tables and colours belong there."""
    return console.is_terminal


@contextmanager
def progress(doing: str) -> Iterator[Callable[[str, int, int], None] | None]:
    """A bar that names the source being read; nothing where standard error is no terminal."""
    if not sys.stderr.isatty():
        yield None
        return
    bar = Progress(
        TextColumn("{task.description}"),
        BarColumn(),
        TaskProgressColumn(),
        TimeElapsedColumn(),
        TextColumn("{task.fields[source]}", style="dim"),
        console=Console(stderr=True),
        transient=True,
    )
    with bar:
        task = bar.add_task(doing, total=None, source="")

        def watch(source: str, done: int, total: int) -> None:
            bar.update(task, completed=done, total=total or None, source=source)

        yield watch
