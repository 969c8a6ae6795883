"""Do work ahead on any executor, and hand the results out in order."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future
from typing import TypeVar

Given = TypeVar("Given")
Result = TypeVar("Result")

# the name of the source at hand, the bytes done, the bytes in all
Watch = Callable[[str, int, int], None]
WORKERS = max(2, os.cpu_count() or 1)


def ahead(
    executor: Executor, work: Callable[[Given], Result], items: Iterable[Given], most: int = WORKERS + 1
) -> Iterator[Result]:
    """Map `work` over `items` on an executor, with a bounded number in flight.

    Parameters
    ----------
    executor
        Threads, processes, or a cluster's executor.
    work
        A function of one item; for processes it must be importable.
    items
        Read lazily, never more than `most` ahead of what was handed out.
    most
        How many items may be in flight; this bounds the memory.

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
    flying: deque[Future[Result]] = deque()
    try:
        for item in items:
            flying.append(executor.submit(work, item))
            if len(flying) >= most:
                yield flying.popleft().result()
        while flying:
            yield flying.popleft().result()
    finally:
        for future in flying:
            future.cancel()
