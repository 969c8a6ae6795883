"""Feed the pieces of many sources, in order, with bounded memory, in batches of about one size."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor

from integrum.engine.inspecting import Look, inspect_all
from integrum.errors import SourceChanged
from integrum.problems import SourceFault
from integrum.reading.head import Head
from integrum.reading.pieces import PIECE, Inspected, Piece, cut
from integrum.workers import Watch, ahead

_FEW = 64
_UNPACKS_TO = 10


def feed(
    looks: Sequence[Look],
    executor: Executor,
    enter: Callable[[Inspected, Look], bool],
    watch: Watch | None = None,
    output_of: Callable[[int], str] = lambda _: "",
) -> Iterator[tuple[str, list[Piece]]]:
    """Inspect every source on the workers, and hand out the pieces of those that come in.

    Parameters
    ----------
    looks
        The sources, numbered from 0 in their order.
    executor
        Where the inspection is done, some sources ahead.
    enter
        Is called with what the inspection of a source found, in order; says whether it comes in.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    output_of
        Which output the rows of a source go to, by its number.

    Yields
    ------
    tuple
        An output, and pieces for it in their order, some 8 MB together.
    """
    total, done = sum(look.source.size for look in looks), 0
    waiting = _Waiting()
    for some in ahead(executor, inspect_all, _handfuls(looks)):
        for seen in some:
            look, into = looks[seen.source], 0
            if watch:
                watch(look.source.name, done, total)
            for piece in _pieces(seen, look) if enter(seen, look) else ():
                yield from waiting.add(output_of(look.number), piece)
                into += len(piece.data)
                if watch:
                    watch(look.source.name, min(done + into, total), total)
            done += look.source.size
    yield from waiting.rest()


class _Waiting:
    """Pieces that wait until there are enough for a job; in all, never more than a few jobs' worth."""

    def __init__(self) -> None:
        self._pieces: dict[str, list[Piece]] = {}
        self._sizes: dict[str, int] = {}

    def add(self, output: str, piece: Piece) -> Iterator[tuple[str, list[Piece]]]:
        size = self._sizes.get(output, 0)
        if size and size + len(piece.data) > PIECE:
            yield output, self._take(output)
        self._pieces.setdefault(output, []).append(piece)
        self._sizes[output] = self._sizes.get(output, 0) + len(piece.data)
        if sum(self._sizes.values()) > 4 * PIECE:
            largest = max(self._sizes, key=lambda each: self._sizes[each])
            yield largest, self._take(largest)

    def rest(self) -> Iterator[tuple[str, list[Piece]]]:
        for output in list(self._pieces):
            yield output, self._take(output)

    def _take(self, output: str) -> list[Piece]:
        self._sizes.pop(output)
        return self._pieces.pop(output)


def _pieces(seen: Inspected, look: Look) -> Iterable[Piece]:
    if seen.piece:
        return [seen.piece]
    if not seen.pieces or isinstance(look.head, SourceFault):
        return []
    return _again(look, look.head)


def _again(look: Look, head: Head) -> Iterator[Piece]:
    """Read a large source for the second time; it must be what it was."""
    changed = SourceChanged(
        f"{look.source.name} changed while it was being read; nothing was written, run it again"
    )
    try:
        yield from cut(look.source, look.number, look.variant_number, head, look.layout)
    except SourceFault as fault:
        raise changed from fault
    if look.source.has_changed():
        raise changed


def _handfuls(looks: Sequence[Look]) -> Iterator[list[Look]]:
    """Small sources together, so that their fixed costs are shared."""
    some: list[Look] = []
    size = 0
    for look in looks:
        weight = look.source.size * (_UNPACKS_TO if look.source.packing else 1)
        if some and (len(some) >= _FEW or size + weight > PIECE):
            yield some
            some, size = [], 0
        some.append(look)
        size += weight
    if some:
        yield some
