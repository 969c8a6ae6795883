"""The command line."""

from __future__ import annotations

import gc
import signal

from integrum.cli.leaving import leave

# after this many new objects
_RARELY = 200_000


def main() -> None:
    """Run the command line."""
    # while modules load there is nothing to clean up
    signal.signal(signal.SIGINT, leave)
    signal.signal(signal.SIGTERM, leave)
    # and all that they make stays, so that it is not gone through for garbage again and again
    gc.set_threshold(_RARELY)
    from integrum.cli.app import run

    run()
