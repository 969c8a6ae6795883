"""The command line."""

from __future__ import annotations

import gc
import os
import signal
import sys
from types import FrameType
from typing import NoReturn

INTERRUPTED = 130
# after so many new objects
_RARELY = 200_000


def leave(number: int = 0, frame: FrameType | None = None) -> NoReturn:  # noqa: ARG001
    """End at once with one line, without waiting for what threads are still at."""
    swap = sys.modules.get("integrum.recording.swap")
    written = getattr(swap, "HAS_PUT", False)
    said = "the table is written, and whole" if written else "nothing was written"
    os.write(2, f"integrum: interrupted; {said}\n".encode())
    os._exit(INTERRUPTED)


def main() -> None:
    """Run the command line."""
    # while modules load there is nothing to clean up
    signal.signal(signal.SIGINT, leave)
    signal.signal(signal.SIGTERM, leave)
    # and all that they make stays, so that it is not gone through for garbage again and again
    gc.set_threshold(_RARELY)
    from integrum.cli.app import run

    run()
