"""What goes to workers elsewhere: what all tasks need once, in a file, and with each task only what is its own."""

from __future__ import annotations

import io
import os
import pickle
from collections.abc import Callable, Mapping
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

from integrum.engine.stretches import Begin, Stretch, do_stretch
from integrum.errors import WorkersLost

try:  # a cluster's workers can then do functions that were made at a prompt
    from cloudpickle import Pickler as _Pickler
except ImportError:
    from pickle import Pickler as _Pickler

NAME = "common.pickle"


class Sender:
    """Packs stretches for workers in other processes.

    Parameters
    ----------
    begin
        What opens a worker; the same for all stretches.
    families
        The families of sources, of which a job has some; the same for all stretches.
    folder
        A folder that all workers reach; None: everything goes with each stretch.
    """

    def __init__(self, begin: Begin, families: Mapping[int, Any], folder: Path | None) -> None:
        self._begin = begin
        self._families = {id(one): number for number, one in families.items()}
        self._place: str | None = None
        if folder is not None:
            self._place = str(folder / NAME)
            data = io.BytesIO()
            _Pickler(data).dump((begin, dict(families)))
            with open(self._place, "xb") as file:
                file.write(data.getbuffer())

    def __call__(self, stretch: Stretch) -> Packed:
        """Pack a stretch."""
        data = io.BytesIO()
        pickler = _Pickler(data)
        if self._place is not None:
            pickler.persistent_id = self._known
            pickler.dump(stretch)
        else:
            pickler.dump((stretch, self._begin))
        return Packed(self._place, data.getvalue(), stretch)

    def _known(self, one: object) -> int | None:
        return self._families.get(id(one))


class Packed:
    """A stretch as it is sent.

    Parameters
    ----------
    place
        The file with what all stretches need; None when it is in the stretch.
    stretch
        The same where it was packed; it is not sent.
    """

    __slots__ = ("data", "place", "stretch")

    def __init__(self, place: str | None, data: bytes, stretch: Stretch | None = None) -> None:
        self.place, self.data, self.stretch = place, data, stretch

    def __reduce__(self) -> tuple[Callable[..., Packed], tuple[str | None, bytes]]:
        return Packed, (self.place, self.data)


def do_packed(packed: Packed) -> list[Any]:
    """Do a stretch on a worker elsewhere."""
    if packed.place is None:
        stretch, begin = pickle.loads(packed.data)
        return do_stretch(stretch, begin)
    begin, families = _common(packed.place)
    reader = pickle.Unpickler(io.BytesIO(packed.data))
    reader.persistent_load = partial(_of, families)  # type: ignore[method-assign]
    return do_stretch(reader.load(), begin)


def _of(families: Mapping[int, Any], number: Any) -> Any:
    return families[number]


@lru_cache(1)
def _common(place: str) -> Any:
    try:
        with open(place, "rb") as file:
            return pickle.load(file)
    except FileNotFoundError:
        raise WorkersLost(
            f"a worker does not reach {os.path.dirname(place)}; write to a place that all workers reach"
        ) from None


def is_there(place: str) -> bool:
    """Whether a file is there for this worker."""
    return os.path.exists(place)
