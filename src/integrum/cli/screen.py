"""What is written where: results to standard output, everything else to standard error; plain text when piped.

The library for terminals is loaded only where there is one.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, TextIO

from integrum.problems.problem import middle, visible
from integrum.workers.progress import Pace, Progress, Watch

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

    Attributes
    ----------
    is_quiet
        Whether no progress is shown there.
    """

    def __init__(self, name: str) -> None:
        self._name = name
        self._console: Console | None = None
        self.is_quiet = False

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
        parts = tuple(
            visible(part) if isinstance(part, str) else (visible(part[0]), part[1]) for part in parts
        )
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

    def wrapped(self, text: str) -> None:
        """Write a line to a terminal; what does not fit goes below, indented a little more than its beginning."""
        import textwrap

        text = visible(text)
        width = max(self.console.width, 20)
        start = " " * min(len(text) - len(text.lstrip()), width // 3)
        for line in textwrap.wrap(
            text.strip(),
            width,
            initial_indent=start,
            subsequent_indent=f"{start}  ",
            break_on_hyphens=False,
        ) or [""]:
            self.stream.write(f"{line}\n")

    def text(self, text: str) -> None:
        """Write some text as it is, but for what would command a terminal."""
        self.stream.write(visible(text))


out, err = Screen("stdout"), Screen("stderr")


class _Plain:
    """A terminal as the output of a table; control characters in cells are shown."""

    def __init__(self, stream: TextIO) -> None:
        self._stream, self.buffer = stream, self

    def write(self, data: Any) -> int:
        """Write some whole lines of CSV."""
        return self._stream.write(visible(bytes(data).decode("utf-8", "replace")))

    def flush(self) -> None:
        """Hand on what was written."""
        self._stream.flush()


@contextmanager
def plain_table(is_on_screen: bool) -> Iterator[None]:
    """Show control characters in the cells of a table on a terminal."""
    before = sys.stdout
    if is_on_screen and out.is_terminal:
        sys.stdout = _Plain(before)
    try:
        yield
    finally:
        sys.stdout = before


@contextmanager
def progress(doing: str, lines: bool = False) -> Iterator[Watch | None]:
    """Show progress: a bar with the current source, or a line now and then.

    `lines`: whether lines are wanted where standard error is no terminal; otherwise there is nothing then.
    """
    if err.is_terminal and not err.is_quiet:
        with _bar(doing) as watch:
            yield watch
    elif lines:
        yield _Lines(doing)
    else:
        yield None


class _Lines:
    """Prints a line of progress every few seconds."""

    def __init__(self, doing: str) -> None:
        self._doing, self._pace, self._next = doing, Pace(), 0.0

    def __call__(self, progress: Progress) -> None:
        self._pace.add(progress)
        now = time.monotonic()
        if now >= self._next:
            self._next = now + _EVERY
            share = f"{progress.share:.0%}"
            err.line(f"{self._doing}: {share}, {self._pace.said()}: {progress.source}")
            err.stream.flush()


# seconds from line to line
_EVERY = 2.0


@contextmanager
def _bar(doing: str) -> Iterator[Watch]:
    from rich.progress import BarColumn, TaskProgressColumn, TextColumn
    from rich.progress import Progress as Bars

    bars = Bars(
        TextColumn("{task.description}"),
        BarColumn(bar_width=24),
        TaskProgressColumn(),
        TextColumn("{task.fields[said]}", markup=False),
        TextColumn(" {task.fields[source]}", style="dim", markup=False),
        console=err.console,
        transient=True,
    )
    pace = Pace()
    with bars:
        task = bars.add_task(doing, total=None, source="", said="")

        def watch(progress: Progress) -> None:
            pace.add(progress)
            said = pace.said()
            room = max(err.console.width - 24 - len(doing) - len(said) - 10, 12)
            bars.update(
                task,
                completed=progress.done,
                total=progress.total or None,
                source=middle(progress.source, room),
                said=said,
            )

        yield watch
