"""Do work ahead on any executor, and hand the results out in order."""

from __future__ import annotations

import os
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import BrokenExecutor, CancelledError, Executor, Future, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from typing import Any, TypeVar

from integrum.errors import WorkersLost

Given = TypeVar("Given")
Result = TypeVar("Result")

WORKERS = max(2, os.cpu_count() or 1)


_here = threading.local()


class Stopped(BaseException):
    """Ends a thread whose run has ended early."""


@contextmanager
def threads(number: int = WORKERS) -> Iterator[Executor]:
    """Threads for one call. When it ends early, nobody waits for them.

    Examples
    --------
    >>> with threads() as pool:
    ...     list(ahead(pool, abs, [-1, 2]))
    [1, 2]
    """
    stop = threading.Event()
    pool = ThreadPoolExecutor(number, initializer=_here.__setattr__, initargs=("stop", stop))
    try:
        yield pool
    except BaseException:
        stop.set()
        pool.shutdown(wait=False, cancel_futures=True)
        raise
    pool.shutdown()


def still_wanted() -> None:
    """Raise Stopped if the run of this thread has ended early.

    Raises Stopped.
    """
    stop: threading.Event | None = getattr(_here, "stop", None)
    if stop is not None and stop.is_set():
        raise Stopped


class WorkerDied(Exception):
    """The result of a task whose workers died each time."""


def shares_memory(executor: Executor) -> bool:
    """Whether the workers are threads of this process.

    Examples
    --------
    >>> with ThreadPoolExecutor(1) as pool:
    ...     shares_memory(pool)
    True
    """
    return isinstance(executor, ThreadPoolExecutor)


def workers_of(executor: Executor) -> int:
    """How many tasks an executor works on at one time, as far as it says."""
    said = getattr(executor, "_max_workers", None)
    if isinstance(said, int) and said > 0:
        return said
    client = _client_of(executor)
    if client is not None:
        with suppress(Exception):  # a cluster whose scheduler is not there
            return max(sum(map(int, client.ncores().values())), 1)
    return WORKERS


def _client_of(executor: Executor) -> Any:
    """The client of a Dask cluster, where the executor is that of one."""
    client = getattr(executor, "_client", None)
    return client if hasattr(client, "ncores") else None


def on_every_worker(executor: Executor, work: Callable[[Given], Result], item: Given) -> list[Result]:
    """Do something small on every worker, or on as many as can be told apart.

    `executor`: any; of a Dask cluster it is done on every worker.
    """
    client = _client_of(executor)
    if client is not None:
        return list(_of_cluster(lambda: client.run(work, item)).values())
    tasks = [executor.submit(work, item) for _ in range(min(2 * workers_of(executor), 16))]
    return [_result_of(executor, task) for task in tasks]


def _of_cluster(ask: Callable[[], Result]) -> Result:
    try:
        return ask()
    except (OSError, CancelledError) as error:
        raise _lost(error) from error


def _lost(error: BaseException) -> WorkersLost:
    said = f": {error}" if str(error) else ""
    return WorkersLost(
        f"the connection to the workers was lost{said}; nothing was written; check that the scheduler runs, and "
        "run it again"
    )


def _result_of(executor: Executor, task: Future[Result]) -> Result:
    """The result of a task.

    Raises WorkerDied when its workers died. Raises WorkersLost when the executor is no longer there.
    """
    client = _client_of(executor)
    try:
        if client is None:
            return task.result()
        gone = 0.0
        while True:
            try:
                return task.result(_ASK_AGAIN)
            except TimeoutError:
                # a client that has lost its scheduler would wait for ever
                gone = 0.0 if client.status == "running" else gone or time.monotonic()
                if gone and time.monotonic() - gone > _LOST_AFTER:
                    raise _lost(TimeoutError("the scheduler does not answer")) from None
    except (BrokenExecutor, CancelledError) as error:
        raise _lost(error) from error
    except Exception as error:
        kind = type(error)
        if kind.__name__ == "KilledWorker":
            raise WorkerDied(str(error)) from error
        if client is not None and kind.__name__ in ("FutureCancelledError", "CommClosedError"):
            raise _lost(error) from error
        raise


# seconds
_ASK_AGAIN, _LOST_AFTER = 5.0, 20.0


def ahead(
    executor: Executor,
    work: Callable[[Given], Result],
    items: Iterable[Given],
    room: int = 0,
    weigh: Callable[[Given], int] = lambda _: 1,
    instead: Callable[[Given], Result] | None = None,
    flying_now: Callable[[int], None] = lambda _: None,
) -> Iterator[Result]:
    """Map `work` over `items` on an executor, with a bounded amount in flight.

    In the order of the items.

    Raises WorkersLost when the executor is no longer there, or, without `instead`, when the workers of an item die.

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
    instead
        Gives the result of an item whose workers died each time that they were at it.
    flying_now
        Is called with the number of items in flight, when it has changed.

    Examples
    --------
    >>> from concurrent.futures import ThreadPoolExecutor
    >>> with ThreadPoolExecutor(2) as pool:
    ...     list(ahead(pool, abs, [-1, -2, 3]))
    [1, 2, 3]
    """
    least = workers_of(executor) + 1
    room = room or least
    flying: deque[tuple[Future[Result], int, Given]] = deque()
    load = 0

    def first() -> Result:
        nonlocal load
        future, gone, item = flying.popleft()
        load -= gone
        flying_now(len(flying))
        try:
            return _result_of(executor, future)
        except WorkerDied as error:
            if instead is None:
                raise WorkersLost(f"the workers died at their work; nothing was written: {error}") from error
            return instead(item)

    try:
        for item in items:
            weight = weigh(item)
            while flying and len(flying) >= least and load + weight > room:
                yield first()
            try:
                flying.append((executor.submit(work, item), weight, item))
            except (BrokenExecutor, OSError) as error:
                raise _lost(error) from error
            load += weight
            flying_now(len(flying))
        while flying:
            yield first()
    finally:
        for future, *_ in flying:
            future.cancel()
