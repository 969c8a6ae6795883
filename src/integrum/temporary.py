"""A folder that goes when the object goes that it is for."""

from __future__ import annotations

import shutil
import tempfile
import weakref
from pathlib import Path


def folder_for(owner: object) -> Path:
    """Make a folder that is removed when its owner is no longer there, or the process ends.

    Examples
    --------
    >>> class Owner:
    ...     pass
    >>> one = Owner()
    >>> place = folder_for(one)
    >>> before = place.exists()
    >>> del one
    >>> before, place.exists()
    (True, False)
    """
    place = tempfile.mkdtemp(prefix="integrum-")
    weakref.finalize(owner, shutil.rmtree, place, ignore_errors=True)
    return Path(place)
