"""How the command line ends when it is interrupted."""

from __future__ import annotations

import os
import sys
from types import FrameType
from typing import NoReturn

INTERRUPTED = 130


def leave(number: int = 0, frame: FrameType | None = None) -> NoReturn:  # noqa: ARG001
    """Print one line and end at once, without waiting for threads."""
    swap = sys.modules.get("integrum.publish.swap")
    written = getattr(swap, "HAS_PUT", False)
    said = "the table is written, and whole" if written else "nothing was written"
    os.write(2, f"integrum: interrupted; {said}\n".encode())
    os._exit(INTERRUPTED)
