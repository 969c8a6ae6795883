"""The workers of a Dask cluster that is there."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from typing import Any

from integrum.errors import ExtraNeeded, WorkersLost
from integrum.version import __version__

# seconds
_PATIENCE = 10


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
