"""Feed the pieces of many sources, in order, with bounded memory, in batches of about one size."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor

from integrum.assembling.inspecting import Look, inspect_all
from integrum.errors import SourceChanged
from integrum.problems import SourceFault
from integrum.reading.head import Head
from integrum.reading.pieces import PIECE, Inspected, Piece, cut
from integrum.workers import ahead

_FEW = 64
Watch = Callable[[str, int, int], None]


def feed(
    looks: Sequence[Look],
    executor: Executor,
    enter: Callable[[Inspected, Look], bool],
    watch: Watch | None = None,
) -> Iterator[list[Piece]]:
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

    Yields
    ------
    list of Piece
        Consecutive pieces, some 8 MB together.
    """
    total, done, size = sum(look.source.size for look in looks), 0, 0
    batch: list[Piece] = []
    for some in ahead(executor, inspect_all, _handfuls(looks)):
        for seen in some:
            look, into = looks[seen.source], 0
            if watch:
                watch(look.source.name, done, total)
            for piece in _pieces(seen, look) if enter(seen, look) else ():
                if batch and size + len(piece.data) > PIECE:
                    yield batch
                    batch, size = [], 0
                batch.append(piece)
                size += len(piece.data)
                into += len(piece.data)
                if watch:
                    watch(look.source.name, min(done + into, total), total)
            done += look.source.size
    if batch:
        yield batch


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
        yield from cut(look.source, look.number, look.variant_number, head)
    except SourceFault as fault:
        raise changed from fault
    if look.source.has_changed():
        raise changed


def _handfuls(looks: Sequence[Look]) -> Iterator[list[Look]]:
    """Small sources together, so that their fixed costs are shared."""
    some: list[Look] = []
    size = 0
    for look in looks:
        if some and (len(some) >= _FEW or size + look.source.size > PIECE):
            yield some
            some, size = [], 0
        some.append(look)
        size += look.source.size
    if some:
        yield some
