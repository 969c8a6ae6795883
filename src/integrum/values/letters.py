"""Tests on the letters of a whole text column at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from integrum.arrow.arrays import Bytes, Ints, Mask, truths

Places = Ints


@dataclass(frozen=True)
class Letters:
    """The bytes of a text column."""

    data: Bytes  # the bytes of all its texts, one after the other
    # where each text lies in them; an empty cell ends where it starts
    starts: Places
    ends: Places

    @classmethod
    def of(cls, values: pa.Array) -> Letters:
        """The bytes of a string array.

        Examples
        --------
        >>> letters = Letters.of(pa.array(["7.2", None, "x"])[1:])
        >>> letters.starts.tolist(), letters.ends.tolist(), letters.data.tolist()
        ([0, 0], [0, 1], [120])
        """
        if not len(values) or values.buffers()[2] is None:
            nothing = np.zeros(len(values), np.int64)
            return cls(np.zeros(0, np.uint8), nothing, nothing)
        offsets = np.frombuffer(values.buffers()[1], np.int32)[
            values.offset : values.offset + len(values) + 1
        ]
        data = np.frombuffer(values.buffers()[2], np.uint8)[offsets[0] : offsets[-1]]
        offsets = (offsets - offsets[0]).astype(np.int64)
        starts, ends = offsets[:-1], offsets[1:]
        if values.null_count:  # what stands below an empty cell is not ours
            ends = np.where(truths(values.is_valid()), ends, starts)
        return cls(data, starts, ends)

    @property
    def lengths(self) -> Places:
        """How many bytes each text has."""
        return self.ends - self.starts

    def all_among(self, alphabet: bytes) -> bool:
        """Whether there is no other byte than these."""
        return not self.others(alphabet)

    def others(self, alphabet: bytes) -> bytes:
        """All bytes but these."""
        return self.data.tobytes().translate(None, alphabet)

    def with_others(self, alphabet: bytes) -> Mask:
        """Which texts have another byte than these."""
        result = np.zeros(len(self.starts), bool)
        if self.all_among(alphabet):
            return result
        known = np.zeros(256, bool)
        known[np.frombuffer(alphabet, np.uint8)] = True
        places = np.flatnonzero(~known[self.data])
        at = np.searchsorted(self.starts, places, side="right") - 1
        result[at] = True
        return result & (self.ends > self.starts)

    def begun_by(self, alphabet: bytes) -> Mask:
        """Which texts begin with one of these bytes; empty ones do not.

        Examples
        --------
        >>> Letters.of(pa.array(["7.2", None, "x"])).begun_by(b"0123456789").tolist()
        [True, False, False]
        """
        if not len(self.data):
            return np.zeros(len(self.starts), bool)
        known = np.zeros(256, bool)
        known[np.frombuffer(alphabet, np.uint8)] = True
        return known[self.first(self.starts)] & (self.ends > self.starts)

    def first(self, starts: Places) -> Bytes:
        """The bytes at some places; the last one for places behind the end."""
        return self.data[np.minimum(starts, len(self.data) - 1)]
