"""What is written where: results to standard output, everything else to standard error; plain text when piped.

The library for terminals is loaded only where there is one.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, TextIO

if TYPE_CHECKING:
    from rich.console import Console

STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}

# a text, or a text with a style
Part = str | tuple[str, str]


class Screen:
    """One of the two standard streams.

    Parameters
    ----------
    name
        ``"stdout"`` or ``"stderr"``.
    """

    def __init__(self, name: str) -> None:
        self._name = name
        self._console: Console | None = None

    @property
    def stream(self) -> TextIO:
        """The stream."""
        stream: TextIO = getattr(sys, self._name)
        return stream

    @property
    def is_terminal(self) -> bool:
        """Whether tables and colours belong there."""
        return self.stream.isatty()

    @property
    def console(self) -> Console:
        """The terminal."""
        if self._console is None:
            from rich.console import Console

            self._console = Console(stderr=self._name == "stderr", soft_wrap=True, highlight=False)
        return self._console

    def line(self, *parts: Part, indent: int = 0) -> None:
        """Write a line; on a terminal an indented one is wrapped with its indent."""
        if not self.is_terminal:
            said = "".join(part if isinstance(part, str) else part[0] for part in parts)
            self.stream.write(f"{' ' * indent}{said}\n")
            return
        from rich.padding import Padding
        from rich.text import Text

        text = Text.assemble(*parts)
        if indent:
            self.console.print(Padding(text, (0, 0, 0, indent)), soft_wrap=False)
        else:
            self.console.print(text)

    def text(self, text: str) -> None:
        """Write some text as it is."""
        self.stream.write(text)


out, err = Screen("stdout"), Screen("stderr")


@contextmanager
def progress(doing: str) -> Iterator[Callable[[str, int, int], None] | None]:
    """A bar that names the source being read; nothing where standard error is no terminal."""
    if not err.is_terminal:
        yield None
        return
    from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn

    bar = Progress(
        TextColumn("{task.description}"),
        BarColumn(),
        TaskProgressColumn(),
        TimeElapsedColumn(),
        TextColumn("{task.fields[source]}", style="dim", markup=False),
        console=err.console,
        transient=True,
    )
    with bar:
        task = bar.add_task(doing, total=None, source="")

        def watch(source: str, done: int, total: int) -> None:
            bar.update(task, completed=done, total=total or None, source=source)

        yield watch
