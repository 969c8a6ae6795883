"""Rewrite many texts at once by their shapes: a text with its digits as nines, of which a column has only a few."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
import pyarrow as pa

from integrum.values.arrays import Bytes, Ints, Mask, truths
from integrum.values.digits import Letters

_NINES = bytes(ord("9") if chr(at) in "0123456789" else at for at in range(256))
_ZERO = ord("0")


class Slice(NamedTuple):
    """These bytes of the text."""

    start: int
    stop: int


class Century(NamedTuple):
    """The century of the year with these two digits: that of the hundred years that begin with `first`."""

    start: int
    first: int


class Hour(NamedTuple):
    """Two digits: the hour of a day from one on a 12-hour clock."""

    start: int
    stop: int
    afternoon: bool


class Expect(NamedTuple):
    """No bytes; but the text fits only if these bytes stand there, or do not stand there."""

    start: int
    stop: int
    what: bytes
    there: bool = True


Part = bytes | Slice | Century | Hour | Expect
# what texts of a shape are rewritten to; None for a shape that does not fit
Rule = Callable[[bytes], Sequence[Part] | None]


class ShapeMatch:
    """The groups that a pattern has found in a shape, with their places in bytes."""

    def __init__(self, match: re.Match[str]) -> None:
        self._match, self._ascii = match, match.string.isascii()

    @classmethod
    def of(cls, pattern: re.Pattern[str], shape: bytes) -> ShapeMatch | None:
        """Match the whole shape; None where it does not fit."""
        match = pattern.fullmatch(shape.decode())
        return cls(match) if match else None

    def __getitem__(self, name: str) -> str:
        return (self._match[name] or "") if name in self._match.re.groupindex else ""

    def span(self, name: str) -> tuple[int, int]:
        """The first byte of a group, and the one behind its last."""
        start, stop = self._match.span(name)
        if self._ascii:
            return start, stop
        before = self._match.string
        return len(before[:start].encode()), len(before[:stop].encode())


def two_digits(found: ShapeMatch, name: str) -> list[Part]:
    """A group of one or two digits, with a zero before the one."""
    start, stop = found.span(name)
    return [Slice(start, stop)] if stop - start == 2 else [b"0", Slice(start, stop)]


def shape_of(text: str) -> bytes:
    """The shape of one text.

    Examples
    --------
    >>> shape_of("$ 12.5")
    b'$ 99.9'
    """
    return text.encode().translate(_NINES)


def shapes_of(values: pa.Array) -> pa.Array:
    """The shapes of texts.

    Examples
    --------
    >>> shapes_of(pa.array(["1.5.2024", None, "21.12.2024"])).to_pylist()
    ['9.9.9999', None, '99.99.9999']
    """
    valid, offsets, data = values.buffers()
    if data is None:
        return values
    nines = pa.py_buffer(memoryview(data).tobytes().translate(_NINES))
    return pa.Array.from_buffers(
        pa.string(), len(values), [valid, offsets, nines], values.null_count, values.offset
    )


def rewritten(values: pa.Array, rule: Rule) -> tuple[pa.Array, Mask]:
    """Rewrite texts by a rule for their shapes.

    Returns the new texts, null where a text is empty or does not fit; and which of them fit.

    `rule`: gives the parts of the new text for a shape.

    Examples
    --------
    >>> parts = [Slice(6, 10), b"-", Slice(3, 5), b"-", Slice(0, 2)]
    >>> made, fits = rewritten(pa.array(["01.05.2024", "x"]), {b"99.99.9999": parts}.get)
    >>> made.to_pylist(), fits.tolist()
    (['2024-05-01', None], [True, False])
    """
    letters = Letters.of(values)
    fits = np.zeros(len(values), bool)
    sizes = np.zeros(len(values), np.int64)
    done: list[tuple[Ints, Bytes]] = []
    for shape, at in by_shape(values):
        parts = rule(shape)
        if parts is None:
            continue
        matrix, good = _made(_matrix(letters, at, len(shape)), parts)
        if not good.all():
            at, matrix = at[good], matrix[good]
        fits[at] = True
        sizes[at] = matrix.shape[1]
        done.append((at, matrix))
    return _joined(len(values), fits, sizes, done), fits


def by_shape(values: pa.Array) -> Iterator[tuple[bytes, Ints]]:
    """The distinct shapes of texts, with the positions of each.

    Examples
    --------
    >>> [(shape, at.tolist()) for shape, at in by_shape(pa.array(["7", "x1", None, "8"]))]
    [(b'9', [0, 3]), (b'x9', [1])]
    """
    coded = shapes_of(values).dictionary_encode()
    distinct = [shape.encode() for shape in coded.dictionary.to_pylist()]
    if not distinct:
        return
    codes = np.frombuffer(coded.indices.buffers()[1], np.int32)[coded.offset : coded.offset + len(coded)]
    if coded.null_count:
        codes = np.where(truths(coded.indices.is_valid()), codes, -1)
    if len(distinct) == 1 and not coded.null_count:
        yield distinct[0], np.arange(len(values))
        return
    order = np.argsort(codes, kind="stable")
    bounds = np.searchsorted(codes[order], np.arange(len(distinct) + 1))
    for number, shape in enumerate(distinct):
        yield shape, order[bounds[number] : bounds[number + 1]]


def _matrix(letters: Letters, at: Ints, width: int) -> Bytes:
    """Texts of one length as a matrix of bytes."""
    if len(at) == len(letters.starts) and len(letters.data) == len(at) * width:
        return letters.data.reshape(len(at), width)
    matrix: Bytes = letters.data[letters.starts[at][:, None] + np.arange(width)]
    return matrix


def _made(matrix: Bytes, parts: Sequence[Part]) -> tuple[Bytes, Mask]:
    good = np.ones(len(matrix), bool)
    columns: list[Bytes] = []
    for part in parts:
        if isinstance(part, bytes):
            columns.append(np.broadcast_to(np.frombuffer(part, np.uint8), (len(matrix), len(part))))
        elif isinstance(part, Slice):
            columns.append(matrix[:, part.start : part.stop])
        elif isinstance(part, Expect):
            same = (matrix[:, part.start : part.stop] == np.frombuffer(part.what, np.uint8)).all(axis=1)
            good &= same if part.there else ~same
        elif isinstance(part, Century):
            year = _number(matrix, part.start, part.start + 2)
            turn = part.first % 100
            columns.append(_digits(np.where(year >= turn, part.first // 100, part.first // 100 + 1)))
        else:
            hour = _number(matrix, part.start, part.stop)
            good &= (hour >= 1) & (hour <= 12)
            columns.append(_digits(np.where(good, hour % 12 + 12 * part.afternoon, 0)))
    whole = np.concatenate(columns, axis=1) if columns else np.zeros((len(matrix), 0), np.uint8)
    return whole, good


def _number(matrix: Bytes, start: int, stop: int) -> Ints:
    result = np.zeros(len(matrix), np.int64)
    for at in range(start, stop):
        result = result * 10 + (matrix[:, at].astype(np.int64) - _ZERO)
    return result


def _digits(numbers: Ints) -> Bytes:
    return np.stack([numbers // 10 + _ZERO, numbers % 10 + _ZERO], axis=1).astype(np.uint8)


def _joined(count: int, fits: Mask, sizes: Ints, done: Sequence[tuple[Ints, Bytes]]) -> pa.Array:
    """Join the texts that were made shape by shape into one array."""
    offsets = np.zeros(count + 1, np.int32)
    np.cumsum(sizes, out=offsets[1:])
    if len(done) == 1 and fits.all():
        data = np.ascontiguousarray(done[0][1]).reshape(-1)
    else:
        data = np.zeros(int(offsets[-1]), np.uint8)
        for at, matrix in done:
            data[offsets[at][:, None] + np.arange(matrix.shape[1])] = matrix
    valid = None if fits.all() else pa.py_buffer(np.packbits(fits, bitorder="little"))
    return pa.Array.from_buffers(pa.string(), count, [valid, pa.py_buffer(offsets), pa.py_buffer(data)])
