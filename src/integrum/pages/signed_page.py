"""A page knows whether somebody has changed it, so that no work of theirs is written over."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from blake3 import blake3

from integrum.errors import OutputError
from integrum.problems.problem import near

_SIGNED = "made by Integrum; BLAKE3 of what stands above:"


def signed(page: str) -> bytes:
    """Add a last line with a hash, by which a change is noticed."""
    data = page.encode(errors="backslashreplace")
    return data + f"<!-- {_SIGNED} {blake3(data).hexdigest()} -->\n".encode()


def is_own_page(path: Path) -> bool:
    """Whether a page was made by Integrum, and is as it was made."""
    with suppress(OSError, ValueError):
        data = path.read_bytes()
        start = data.rindex(b"<!-- ")
        return data[start:] == f"<!-- {_SIGNED} {blake3(data[:start]).hexdigest()} -->\n".encode()
    return False


def write_page(path: Path, text: str, replace: bool = False) -> Path:
    """Write a page in one step, over an earlier one.

    Raises OutputError when it cannot be written, or something is in its place that Integrum did not make.

    `replace`: whether a file that was not made by Integrum, or was changed since, may be written over.
    """
    if os.path.lexists(path) and not replace and not is_own_page(path):
        raise OutputError(
            f"{near(path)} exists, and is not as Integrum made it, so it is not written over; move it away, or add "
            "--replace (in Python replace=True) to write over it"
        )
    try:
        unfinished = path.with_name(f".{path.name}.new")
        unfinished.write_bytes(signed(text))
        unfinished.replace(path)
    except OSError as error:
        raise OutputError(f"cannot write {path}: {error.strerror}") from error
    return path
