"""How far a call has come and how fast it goes, and how that is shown."""

from __future__ import annotations

import sys
import time
from collections import deque
from collections.abc import Callable
from typing import Any, NamedTuple

from integrum.problems.notebook import bar

# the speed is that of the last seconds
_SECONDS = 20.0
# seconds between two updates
_EVERY = 0.25


class Progress(NamedTuple):
    """How far a call has come.

    Attributes
    ----------
    source
        The name of the source at hand.
    done, total
        Bytes of the sources that were handed to the workers, and bytes in all.
    rows
        Rows that have come back so far.
    tasks, workers
        Tasks that the workers have now, and how many workers there are; 0 where that does not apply.

    Examples
    --------
    >>> Progress("2021.csv", 50, 200).share
    0.25
    """

    source: str
    done: int
    total: int
    rows: int = 0
    tasks: int = 0
    workers: int = 0

    @property
    def share(self) -> float:
        """How much of all bytes is done, from 0 to 1."""
        return min(self.done / self.total, 1.0) if self.total else 0.0


# what the `watch` of the calls is
Watch = Callable[[Progress], None]


class Pace:
    """How fast a call goes, and how long it will take, by what it tells of itself.

    Examples
    --------
    >>> now = iter([0.0, 2.0])
    >>> pace = Pace(lambda: next(now))
    >>> pace.add(Progress("2021.csv", 0, 50_000_000))
    >>> pace.add(Progress("2021.csv", 20_000_000, 50_000_000, 400_000))
    >>> pace.said()
    '20 of 50 MB, 400,000 rows, 10 MB/s, 200,000 rows/s, 3 s left'
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._seen = clock, deque[tuple[float, Progress]]()

    def add(self, progress: Progress) -> None:
        """Take what a call tells."""
        now = self._clock()
        self._seen.append((now, progress))
        while len(self._seen) > 2 and self._seen[1][0] < now - _SECONDS:
            self._seen.popleft()
        if len(self._seen) > 4_000:  # many small sources: every second one is enough
            self._seen = deque([*list(self._seen)[::2], self._seen[-1]])

    @property
    def last(self) -> Progress | None:
        """What it told last."""
        return self._seen[-1][1] if self._seen else None

    def _speeds(self) -> tuple[float, float]:
        (begin, first), (end, last) = self._seen[0], self._seen[-1]
        seconds = end - begin
        if seconds <= 0 or last.done < first.done:
            return 0.0, 0.0
        return (last.done - first.done) / seconds, max(last.rows - first.rows, 0) / seconds

    def seconds_left(self) -> float | None:
        """How long it takes from now on, in seconds; None as long as that cannot be told."""
        if len(self._seen) < 2:
            return None
        speed, (_, last) = self._speeds()[0], self._seen[-1]
        return (last.total - last.done) / speed if speed else None

    def said(self) -> str:
        """All of it in words."""
        if not self._seen:
            return ""
        last = self._seen[-1][1]
        bytes_a_second, rows_a_second = self._speeds()
        parts = [amounts(last.done, last.total)]
        if last.rows:
            parts.append(f"{last.rows:,} rows")
        if bytes_a_second:
            parts.append(f"{amount(bytes_a_second)}/s")
        if rows_a_second:
            parts.append(f"{rounded(rows_a_second):,} rows/s")
        left = self.seconds_left()
        if left is not None and last.done < last.total:
            parts.append(f"{duration(left)} left")
        if last.tasks and last.workers:
            tasks = "1 task" if last.tasks == 1 else f"{last.tasks:,} tasks"
            parts.append(f"{tasks} on {last.workers:,} {'worker' if last.workers == 1 else 'workers'}")
        return ", ".join(parts)


def rounded(number: float) -> int:
    """Round to two significant digits.

    Examples
    --------
    >>> rounded(123_456.0), rounded(7.4)
    (120000, 7)
    """
    whole = round(number)
    return round(whole, min(0, 2 - len(str(whole))))


_UNITS = (("TB", 1e12), ("GB", 1e9), ("MB", 1e6), ("kB", 1e3))


def amount(size: float) -> str:
    """An amount of bytes.

    Examples
    --------
    >>> amount(1_234_567_890), amount(12_300_000), amount(800)
    ('1.2 GB', '12 MB', '800 bytes')
    """
    for unit, factor in _UNITS:
        if size >= factor:
            return f"{_short(size / factor)} {unit}"
    return f"{size:.0f} bytes"


def amounts(done: int, total: int) -> str:
    """An amount of a whole, both in one unit.

    Examples
    --------
    >>> amounts(1_234_567, 98_765_432), amounts(3, 40)
    ('1.2 of 99 MB', '3 of 40 bytes')
    """
    for unit, factor in _UNITS:
        if total >= factor:
            return f"{_short(done / factor)} of {_short(total / factor)} {unit}"
    return f"{done} of {total} bytes"


def _short(number: float) -> str:
    return f"{number:.1f}".removesuffix(".0") if number < 9.95 else f"{number:,.0f}"


def duration(seconds: float) -> str:
    """A time in words.

    Examples
    --------
    >>> duration(3.2), duration(75), duration(7_300)
    ('3 s', '1 min 15 s', '2 h 1 min')
    """
    whole = max(round(seconds), 1)
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60} s"
    return f"{whole // 3600} h {whole % 3600 // 60} min"


class Meter:
    """Shows how far a call has come; give it as its `watch`.

    Parameters
    ----------
    doing
        What the call does, in a word.

    Examples
    --------
    >>> import integrum as ig
    >>> meter = ig.Meter("looking")
    >>> meter
    looking: not begun
    >>> meter(ig.Progress("2021.csv", 50, 200))
    >>> meter
    looking: 25%, 50 of 200 bytes: 2021.csv
    """

    def __init__(self, doing: str = "assembling") -> None:
        self._doing, self._pace, self._next = doing, Pace(), 0.0
        self._shown: Any = None

    def __call__(self, progress: Progress) -> None:
        """Take what a call tells."""
        self._pace.add(progress)
        now, is_last = time.monotonic(), progress.done >= progress.total
        if is_last or now >= self._next:
            self._next = now + _EVERY
            self._show(is_last)

    def _show(self, is_last: bool) -> None:
        if "IPython" in sys.modules and sys.modules["IPython"].get_ipython() is not None:
            if self._shown is None:
                from IPython.display import display

                self._shown = display(self, display_id=True)
            else:
                self._shown.update(self)
        elif sys.stderr.isatty():
            sys.stderr.write(f"\r\x1b[K{self!r}" + "\n" * is_last)
            sys.stderr.flush()

    def __repr__(self) -> str:
        last = self._pace.last
        if last is None:
            return f"{self._doing}: not begun"
        return f"{self._doing}: {last.share:.0%}, {self._pace.said()}: {last.source}"

    def _repr_html_(self) -> str:
        last = self._pace.last
        share = last.share if last else 0.0
        return bar(self._doing, share, self._pace.said(), last.source if last else "")
