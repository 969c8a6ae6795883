"""Which files in the places of a run are its own, and what earlier runs have left there."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Collection, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from integrum.errors import OutputError
from integrum.measures.measures import FILES
from integrum.measures.tables import METHODS, PAGES
from integrum.pages.signed_page import is_own_page
from integrum.problems.problem import near
from integrum.publish.places import record_with
from integrum.publish.write import is_listed, read_manifest
from integrum.record.hashing import hash_of
from integrum.record.run_file import MANIFEST, NAME, is_record, methods_hash, wrote
from integrum.writing.csvw import is_own
from integrum.writing.parquet_folder import content_of

_HOW = "move it away, give another name, or add --replace (in Python replace=True) to write over it"
# what a record is known by when neither run.json nor the manifest can be read
_KNOWN_BY = ("plan.toml", "sources.csv", "problems.csv", "left-out.csv", "set-aside.csv")
_MANY = 3


@dataclass
class OwnFiles:
    """Decides which files a run may write over.

    Parameters
    ----------
    record
        The record of the run at hand, if it has one; of other files the record beside them is asked.
    proven
        Outputs that are known to be as a run wrote them.
    replace
        Whether everything may be written over.
    record_is_whole
        Whether the files of the record are known to be as a run wrote them.
    """

    record: Path | None
    proven: Collection[Path] = ()
    replace: bool = False
    record_is_whole: bool = False
    _states: dict[Path, tuple[int, ...]] = field(default_factory=dict)
    _known: dict[Path, dict[Path, set[str]]] = field(default_factory=dict)

    def check(self, output: Path) -> None:
        """Refuse to write over an output that no run wrote, or that was edited.

        Raises OutputError.
        """
        self._look(output, self._is_own)

    def check_metadata(self, place: Path, output: Path) -> None:
        """Refuse to write over metadata that no run wrote, or that was edited.

        Raises OutputError.
        """
        self._look(place, lambda path: self._is_own_metadata(path, output))

    def _look(self, place: Path, is_own: Callable[[Path], bool]) -> None:
        state = _state_of(place)
        if place in self._states and state == self._states[place]:
            return
        if state and not self.replace and not _is_empty(place) and not is_own(place):
            raise OutputError(
                f"{near(place)} exists, and is not as a run of Integrum wrote it, so it is not written over; {_HOW}"
            )
        self._states[place] = state

    def check_again(self) -> None:
        """Make sure that nothing has come into these places meanwhile.

        Raises OutputError; then nothing was written.
        """
        for place, state in self._states.items():
            if _state_of(place) != state:
                raise OutputError(
                    f"{near(place)} has changed while the run was at work, so nothing was written; run it again"
                )

    def is_as_written(self, output: Path) -> bool:
        """Whether an output that is there is as a run wrote it."""
        return output in self.proven or self._is_own(output)

    def first_hash(self, output: Path) -> str:
        """A hash of what a run wrote into the place of an output."""
        return min(self._hashes_of(output), default="")

    def _is_own(self, output: Path) -> bool:
        if output in self.proven:
            return True
        hashes = self._hashes_of(output)
        try:
            return bool(hashes) and content_of(output) in hashes
        except OSError:
            return False

    def _hashes_of(self, output: Path) -> set[str]:
        """The hashes that a record has for an output."""
        return next(
            (said[output] for record in self._records(output) if output in (said := self._said(record))),
            set(),
        )

    def _records(self, output: Path) -> Iterator[Path]:
        """The records that may tell of an output, the usual one first."""
        if self.record:
            yield self.record
        yield record_with(output)

    def _said(self, record: Path) -> dict[Path, set[str]]:
        """The hashes that a record has, by place. Those of the manifest count, too, since either file may be damaged."""
        if record not in self._known:
            found: dict[Path, set[str]] = {}
            for path, hashes in wrote(record).items():
                found.setdefault(Path(path), set()).update(hashes)
            for path, content in read_manifest(record).items():
                found.setdefault(Path(os.path.normpath(record / path)), set()).add(content)
            self._known[record] = found
        return self._known[record]

    def has_own_metadata(self, place: Path, output: Path) -> bool:
        """Whether metadata of an output are there, and are as a run wrote them."""
        return os.path.isfile(place) and self._is_own_metadata(place, output)

    def _is_own_metadata(self, place: Path, output: Path) -> bool:
        for record in self._records(output):
            said = self._said(record)
            with suppress(OSError):
                if place in said:
                    return hash_of(place) in said[place]
            if output in said:  # a record that was made by an earlier version does not list it
                return is_own(place)
        return False


def _state_of(place: Path) -> tuple[int, ...]:
    """A state of a file that differs after each change; empty when there is none."""
    try:
        state = os.stat(place)
    except OSError:
        return (0,) if os.path.lexists(place) else ()
    return state.st_dev, state.st_ino, state.st_size, state.st_mtime_ns


def _is_empty(place: Path) -> bool:
    """Whether a place has nothing to lose."""
    with suppress(OSError):
        if os.path.isdir(place):
            return not os.listdir(place)
        return os.stat(place).st_size == 0
    return False


def is_damaged(folder: Path) -> bool:
    """Whether a folder is a damaged record.

    Examples
    --------
    >>> is_damaged(Path("no-such-folder"))
    False
    """
    return sum(os.path.lexists(folder / name) for name in _KNOWN_BY) >= _MANY


def keep_changed(old: Path, new: Path, is_whole: bool = False) -> list[str]:
    """Keep edited files of an old record in the new one.

    They are named ``problems-changed.csv`` and so on. Returns their names.

    Parameters
    ----------
    old, new
        The folders of the two records.
    is_whole
        Whether all files of the old one but the page are known to be as they were written.
    """
    if not is_record(old) and not is_damaged(old):
        return []
    listed = {} if is_whole else read_manifest(old)
    kept = []
    for name in sorted(FILES):
        path = old / name
        if name in (MANIFEST, NAME) or not path.is_file() or not path.stat().st_size:
            continue
        if name in PAGES or name == METHODS:
            if not (is_own_page(path) if name in PAGES else hash_of(path) == methods_hash(old)):
                kept.append(_kept(path, new))
            continue
        # where there is no manifest, nothing says what was written; records of earlier versions have none
        if not is_whole and listed and not is_listed(old, name, listed):
            kept.append(_kept(path, new))
    return kept


def _kept(path: Path, new: Path) -> str:
    stem, suffix = path.stem, path.suffix
    number = 1
    while os.path.lexists(new / (name := f"{stem}-changed{f'-{number}' if number > 1 else ''}{suffix}")) or (
        os.path.lexists(path.with_name(name))
    ):
        number += 1
    try:
        os.link(path, new / name)
    except OSError:  # not on this file system
        with suppress(OSError):
            shutil.copy2(path, new / name)
    return name
