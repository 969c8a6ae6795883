"""Sources that can only be read from their start, kept open so that piece after piece is read once."""

from __future__ import annotations

from types import TracebackType
from typing import Self

from integrum.plan.layout import Layout
from integrum.reading.stream import TextStream
from integrum.sources.source import Source


class Onward:
    """Reads pieces of texts that stand one behind the other; one source at a time."""

    def __init__(self) -> None:
        self._stream: TextStream | None = None
        self._place: tuple[object, ...] = ()
        self._at, self._rest = 0, b""

    def __enter__(self) -> Self:
        return self

    def read(self, source: Source, layout: Layout, start: int, size: int) -> bytes:
        """Some of the text of a source; fewer bytes where it ends before.

        `start`, `size`: where in its text, in UTF-8 and without a byte order mark.
        """
        place = (source.path, source.member, source.sheet)
        if place != self._place or start < self._at:
            self.close()
            self._stream, self._place = TextStream(source, layout), place
        assert self._stream
        while start > self._at:  # what is left out between two pieces
            if not self._forward(min(start - self._at, _STEP)):
                return b""
        return self._forward(size)

    def _forward(self, size: int) -> bytes:
        assert self._stream
        data = self._rest
        if len(data) < size:
            data += self._stream.read(size - len(data))
        self._rest, taken = data[size:], data[:size]
        self._at += len(taken)
        return taken

    def close(self) -> None:
        """Close what is open."""
        if self._stream is not None:
            self._stream.__exit__(None, None, None)
        self._stream, self._place, self._at, self._rest = None, (), 0, b""

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


_STEP = 4 << 20
