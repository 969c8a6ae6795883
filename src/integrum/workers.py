"""Do work ahead on any executor, and hand the results out in order."""

from __future__ import annotations

import os
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import contextmanager
from typing import TypeVar

Given = TypeVar("Given")
Result = TypeVar("Result")

# the name of the source at hand, the bytes done, the bytes in all
Watch = Callable[[str, int, int], None]
WORKERS = max(2, os.cpu_count() or 1)


_here = threading.local()


class Stopped(BaseException):
    """Ends the work of a thread whose run has ended early."""


@contextmanager
def threads() -> Iterator[Executor]:
    """Threads for one call; when it ends early, nobody waits for what they are at.

    Examples
    --------
    >>> with threads() as pool:
    ...     list(ahead(pool, abs, [-1, 2]))
    [1, 2]
    """
    stop = threading.Event()
    pool = ThreadPoolExecutor(WORKERS, initializer=_here.__setattr__, initargs=("stop", stop))
    try:
        yield pool
    except BaseException:
        stop.set()
        pool.shutdown(wait=False, cancel_futures=True)
        raise
    pool.shutdown()


def still_wanted() -> None:
    """Go on, unless the run that this thread works for has ended early; asked wherever much is read.

    Raises
    ------
    Stopped
    """
    stop: threading.Event | None = getattr(_here, "stop", None)
    if stop is not None and stop.is_set():
        raise Stopped


def workers_of(executor: Executor) -> int:
    """How many tasks an executor works on at one time, as far as it says."""
    said = getattr(executor, "_max_workers", None)
    return said if isinstance(said, int) and said > 0 else WORKERS


def ahead(
    executor: Executor,
    work: Callable[[Given], Result],
    items: Iterable[Given],
    room: int = 0,
    weigh: Callable[[Given], int] = lambda _: 1,
) -> Iterator[Result]:
    """Map `work` over `items` on an executor, with a bounded amount in flight.

    Parameters
    ----------
    executor
        Threads, processes, or a cluster's executor.
    work
        A function of one item; for processes it must be importable.
    items
        Read lazily, never further ahead of what was handed out than there is room.
    room
        How much may be in flight, by `weigh`; this bounds the memory. 0: a few items for each worker. One item
        for each worker, and one more, are always let in.
    weigh
        How much an item is.

    Yields
    ------
    Result
        In the order of the items.

    Examples
    --------
    >>> from concurrent.futures import ThreadPoolExecutor
    >>> with ThreadPoolExecutor(2) as pool:
    ...     list(ahead(pool, abs, [-1, -2, 3]))
    [1, 2, 3]
    """
    least = workers_of(executor) + 1
    room = room or least
    flying: deque[tuple[Future[Result], int]] = deque()
    load = 0
    try:
        for item in items:
            weight = weigh(item)
            while flying and len(flying) >= least and load + weight > room:
                future, gone = flying.popleft()
                load -= gone
                yield future.result()
            flying.append((executor.submit(work, item), weight))
            load += weight
        while flying:
            yield flying.popleft()[0].result()
    finally:
        for future, _ in flying:
            future.cancel()
