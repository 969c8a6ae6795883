"""Work that kills its process. Processes that are new find it by its name, so it is no part of a file of tests."""

from __future__ import annotations

import os
import signal


def die_at_five(number: int) -> int:
    """Give the number back, or never."""
    if number == 5:
        os.kill(os.getpid(), signal.SIGKILL)
    return number
