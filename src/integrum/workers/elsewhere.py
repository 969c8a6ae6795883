"""Workers in other processes: of this machine, or of a Dask cluster."""

from __future__ import annotations

import logging
import multiprocessing
import os
import signal
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import BrokenExecutor, Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from typing import Any

from integrum.errors import ExtraNeeded, WorkersLost
from integrum.version import __version__
from integrum.workers.pool import WorkerDied

# after this many times that processes died while a task was waiting or under work, it is done on its own
_TOGETHER = 2
# seconds
_PATIENCE = 10


class Processes(Executor):
    """An executor of processes that survives the death of some of them.

    Examples
    --------
    >>> with Processes(1) as pool:
    ...     pool.submit(abs, -3).result()
    3
    """

    def __init__(self, workers: int) -> None:
        self._max_workers = workers
        self._lock = threading.Lock()
        self._pool = _pool(workers)
        # tasks of which one is likely to kill its process, one by one
        self._alone = ThreadPoolExecutor(1)
        self._pools = {self._pool}
        self._is_over = False

    def submit(self, work: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """Submit a task."""
        result: Future[Any] = Future()
        self._begin(result, 0, work, given, named)
        return result

    def _begin(
        self, result: Future[Any], died: int, work: Callable[..., Any], given: Any, named: Any
    ) -> None:
        if result.cancelled():
            return
        with self._lock:
            pool = self._pool
        try:
            task = pool.submit(work, *given, **named)
        except BrokenExecutor:
            self._again(pool, result, died, work, given, named)
            return
        except RuntimeError:  # it is over
            result.cancel()
            return

        def done(task: Future[Any]) -> None:
            if task.cancelled() or result.cancelled():
                result.cancel()
            elif isinstance(task.exception(), BrokenExecutor):
                self._again(pool, result, died + 1, work, given, named)
            else:
                _hand_on(task, result)

        task.add_done_callback(done)

    def _again(
        self,
        pool: ProcessPoolExecutor,
        result: Future[Any],
        died: int,
        work: Callable[..., Any],
        given: Any,
        named: Any,
    ) -> None:
        with self._lock:
            if self._is_over:
                result.cancel()
                return
            if self._pool is pool:
                self._pool = _pool(self._max_workers)
                self._pools.add(self._pool)
        if died < _TOGETHER:
            self._begin(result, died, work, given, named)
        else:
            self._alone.submit(self._on_its_own, result, work, given, named)

    def _on_its_own(self, result: Future[Any], work: Callable[..., Any], given: Any, named: Any) -> None:
        if result.cancelled() or self._is_over:
            return
        with _pool(1) as pool:
            self._pools.add(pool)
            task = pool.submit(work, *given, **named)
            if isinstance(task.exception(), BrokenExecutor):
                result.set_exception(WorkerDied("the process ended, perhaps as memory ran out"))
            else:
                _hand_on(task, result)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Take no more tasks; with `cancel_futures`, end those at work."""
        self._is_over = True
        with self._lock:
            pools = list(self._pools)
        for pool in pools:
            processes = list((getattr(pool, "_processes", None) or {}).values()) if cancel_futures else []
            pool.shutdown(wait and not cancel_futures, cancel_futures=cancel_futures)
            for process in processes:
                with suppress(Exception):
                    process.kill()
        self._alone.shutdown(wait and not cancel_futures, cancel_futures=cancel_futures)


def _hand_on(task: Future[Any], result: Future[Any]) -> None:
    error = task.exception()
    with suppress(Exception):  # it may have been cancelled in the meantime
        if error is not None:
            result.set_exception(error)
        else:
            result.set_result(task.result())


def _pool(workers: int) -> ProcessPoolExecutor:
    # a fork of a process with threads may hang
    return ProcessPoolExecutor(workers, multiprocessing.get_context("spawn"), _ready)


def _ready() -> None:
    """Ignore interrupts in a worker process, and end with the process that started it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    parent = multiprocessing.parent_process()
    if parent is not None:
        threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def _end_with(parent: Any) -> None:
    parent.join()
    os._exit(1)


@contextmanager
def processes(workers: int) -> Iterator[Executor]:
    """Processes for one call; when it ends early, they are ended."""
    pool = Processes(workers)
    try:
        yield pool
    except BaseException:
        pool.shutdown(cancel_futures=True)
        raise
    pool.shutdown()


@contextmanager
def cluster(address: str) -> Iterator[Executor]:
    """Connect to a scheduler for one call.

    Raises ExtraNeeded when the packages for it are not installed. Raises WorkersLost when there is no scheduler or no
    worker, or the workers do not have this version of Integrum.

    `address`: where it listens: ``"tcp://host:port"``.
    """
    try:
        from distributed import Client
    except ImportError:
        raise ExtraNeeded("a cluster", "cluster") from None
    # what has to be said is in the errors that are raised
    for name in [one for one in logging.root.manager.loggerDict if one.startswith("distributed")]:
        logging.getLogger(name).setLevel(logging.CRITICAL)
    connect: Any = Client
    try:
        client = connect(address, timeout=_PATIENCE, set_as_default=False)
    except (OSError, ValueError, ImportError) as error:
        raise WorkersLost(
            f"there is no scheduler at {address}: {error}; give its address, such as tcp://host:8786"
        ) from error
    try:
        _check(client, address)
        yield client.get_executor(pure=False)
    finally:
        client.close(timeout=2)


def _check(client: Any, address: str) -> None:
    try:
        client.wait_for_workers(1, timeout=_PATIENCE)
    except (OSError, TimeoutError) as error:
        raise WorkersLost(f"the scheduler at {address} does not have any worker") from error
    try:
        there = set(client.run(_version).values())
    except Exception as error:
        raise WorkersLost(
            f"the workers of {address} cannot use Integrum; install it there: {error}"
        ) from error
    if there != {__version__}:
        raise WorkersLost(
            f"the workers of {address} have Integrum {', '.join(sorted(there))}, and this is {__version__}; "
            "install the same version"
        )


def _version() -> str:
    return __version__
