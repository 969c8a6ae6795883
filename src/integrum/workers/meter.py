"""How far a call has come, shown while it runs: a bar in a notebook, a line elsewhere."""

from __future__ import annotations

import sys
import time
from typing import Any

from integrum.notebook import bar
from integrum.workers.progress import Pace, Progress

# seconds between two pictures
_EVERY = 0.25


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
