"""A folder for one call, in which the sheets of workbooks are kept as text."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Self

from integrum.sources.find import Found

if TYPE_CHECKING:
    from tempfile import TemporaryDirectory


class Scratch:
    """A folder that is made when it is first asked for, and goes in the end."""

    def __init__(self) -> None:
        self._made: TemporaryDirectory[str] | None = None

    def __enter__(self) -> Self:
        return self

    @property
    def folder(self) -> Path:
        """The folder."""
        if self._made is None:
            from tempfile import TemporaryDirectory

            self._made = TemporaryDirectory(prefix="integrum-", ignore_cleanup_errors=True)
        return Path(self._made.name)

    def folder_for(self, found: Found) -> Path | None:
        """The same for the sources of a search, where there are sheets among them."""
        return self.folder if any(source.sheet for source in found.sources) else None

    def __exit__(self, *error: object) -> None:
        if self._made is not None:
            self._made.cleanup()
