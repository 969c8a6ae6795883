"""From the plan's folders, patterns and files to the list of sources, in order."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from stat import S_ISREG

from integrum.errors import NothingFound, OutputError
from integrum.plan import Sources
from integrum.problems import Problem
from integrum.sources.order import natural_key
from integrum.sources.own import OwnWork
from integrum.sources.patterns import anchor, has_wildcard, is_excluded, matches
from integrum.sources.source import Source

SUFFIXES = (".csv",)


@dataclass(frozen=True)
class Found:
    """What the search gave.

    Attributes
    ----------
    sources
        In their order: group by group, in natural order within a group.
    problems
        Places that gave nothing, and the like.
    base
        The common folder, to which the names of the sources are relative.
    """

    sources: tuple[Source, ...]
    problems: tuple[Problem, ...]
    base: Path


@dataclass(frozen=True)
class _Place:
    """One entry of `find`: the folder to look in, and the pattern or the file that is meant there."""

    said: str
    folder: str
    pattern: str | None = None
    file: str | None = None

    def files(self, own: OwnWork) -> Iterator[tuple[str, os.stat_result]]:
        """Paths relative to the folder, with ``/``, and their states."""
        if self.file is not None:
            with suppress(OSError):
                state = os.stat(os.path.join(self.folder, self.file))
                if not own.holds(os.stat(self.folder)):
                    yield self.file, state
            return
        for relative, state in walk(self.folder, own):
            if self.pattern is None:
                if relative[relative.rfind(".") :].lower() in SUFFIXES:
                    yield relative, state
            elif matches(relative, self.pattern):
                yield relative, state


def find_sources(groups: Sequence[Sources], folder: Path, own: OwnWork) -> Found:
    """Find the sources of a plan.

    Parameters
    ----------
    groups
        The plan's groups of sources.
    folder
        What relative paths are relative to.
    own
        What must not be taken because Integrum wrote it.

    Returns
    -------
    Found
        At least one source.

    Raises
    ------
    NothingFound
        When no place gave a source; the message says for each place what is there instead.
    OutputError
        When the output is to be written over a source.
    """
    placed = [[_place(said, folder) for said in group.find] for group in groups]
    folders = list(dict.fromkeys(place.folder for places in placed for place in places))
    base = _common(folders)
    for each in folders:
        _learn_records(each, own)
    sources: list[Source] = []
    problems: list[Problem] = []
    empty: list[str] = []
    taken: set[str] = set()
    for number, (group, places) in enumerate(zip(groups, placed, strict=True)):
        here: list[Source] = []
        for place in places:
            gave = 0
            below = os.path.relpath(place.folder, base).replace(os.sep, "/")
            for relative, state in place.files(own):
                name = relative if below == "." else f"{below}/{relative}"
                if own.would_lose(state):
                    raise OutputError(
                        f"{name} is one of the sources, and the run would write over it; "
                        "name another output, or exclude that file"
                    )
                if own.holds(state) or not S_ISREG(state.st_mode) or is_excluded(name, tuple(group.exclude)):
                    continue
                gave += 1
                path = os.path.join(place.folder, relative)
                if path not in taken:
                    taken.add(path)
                    here.append(Source(name, path, number, state.st_size, state.st_mtime_ns))
            if not gave:
                message, hint = _nothing(place, own)
                empty.append(f"{message}; {hint}")
                problems.append(Problem("error", "nothing-found", place.said, message=message, hint=hint))
        sources += sorted(here, key=lambda source: natural_key(source.name))
    if not sources:
        raise NothingFound("no source found\n" + "\n".join(f"  {line}" for line in empty))
    return Found(tuple(sources), tuple(problems), base)


def walk(folder: str, own: OwnWork) -> Iterator[tuple[str, os.stat_result]]:
    """All files below a folder but hidden ones and records; a folder that loops back is entered once."""
    seen: set[tuple[int, int]] = set()
    waiting = [("", folder)]
    while waiting:
        prefix, here = waiting.pop()
        try:
            state = os.stat(here)
            entries = [entry for entry in os.scandir(here) if not entry.name.startswith(".")]
        except OSError:
            continue
        if (state.st_dev, state.st_ino) in seen:
            continue
        seen.add((state.st_dev, state.st_ino))
        files = []
        for entry in entries:
            if not entry.is_dir():
                files.append(entry)
            elif not own.learn(entry.path):
                waiting.append((f"{prefix}{entry.name}/", entry.path))
        for entry in files:
            with suppress(OSError):
                yield prefix + entry.name, entry.stat()


def _place(said: str, folder: Path) -> _Place:
    path = os.path.abspath(folder / said)
    if os.path.isdir(path):
        return _Place(said, path)
    if os.path.exists(path) or not has_wildcard(said):
        return _Place(said, os.path.dirname(path), file=os.path.basename(path))
    start, pattern = anchor(said.replace(os.sep, "/"))
    return _Place(said, os.path.abspath(folder / start), pattern)


def _common(folders: list[str]) -> Path:
    try:
        return Path(os.path.commonpath(folders))
    except ValueError:  # different drives
        return Path(folders[0])


def _learn_records(folder: str, own: OwnWork) -> None:
    with suppress(OSError):
        for entry in os.scandir(folder):
            if entry.is_dir():
                own.learn(entry.path)


def _nothing(place: _Place, own: OwnWork) -> tuple[str, str]:
    path = os.path.join(place.folder, place.file or "")
    if place.file is not None and os.path.exists(path):
        if own.holds(os.stat(path)) or own.holds(os.stat(place.folder)):
            return f'"{place.said}" was written by Integrum', "name the files that it was made from"
        return f'"{place.said}" gave nothing', "it is excluded, or it is not a regular file"
    there = Path(place.folder)
    if there.is_dir() and place.pattern is None and place.file is None:
        return f'the folder "{place.said}" holds no {" or ".join(SUFFIXES)} file', _what_is_in(there)
    while not there.is_dir():
        there = there.parent
    kind, gave = ("pattern", "matches no file") if place.pattern else ("path", "does not exist")
    return f'the {kind} "{place.said}" {gave}', _what_is_in(there)


def _what_is_in(folder: Path) -> str:
    try:
        entries = sorted(os.scandir(folder), key=lambda entry: natural_key(entry.name))
    except OSError as error:
        return f'the folder "{folder}" cannot be read: {error.strerror}'
    folders = [entry.name + "/" for entry in entries if entry.is_dir()]
    files = [entry.name for entry in entries if not entry.is_dir()]
    kinds = Counter(Path(name).suffix.lower() or "no suffix" for name in files)
    shown = [*folders[:6], *files[:6]]
    if not shown:
        return f'the folder "{folder}" is empty'
    more = len(entries) - len(shown)
    rest = f" and {more} more" if more else ""
    counts = ", ".join(f"{count} {kind}" for kind, count in kinds.most_common(5))
    files_said = f" (files: {counts})" if more and counts else ""
    return f'in "{folder}" there is: {", ".join(shown)}{rest}{files_said}'
