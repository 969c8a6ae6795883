"""From the plan's folders, patterns and files to the list of sources, in order."""

from __future__ import annotations

import os
import zipfile
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from stat import S_ISREG
from typing import Any

from integrum.errors import NothingFound, OutputError
from integrum.plan.sources import Sources
from integrum.problems.codes import Severity
from integrum.problems.problem import Problem, SourceFault
from integrum.remote.access import Access
from integrum.remote.addresses import is_remote
from integrum.sources.order import natural_key
from integrum.sources.own import JOURNAL, OwnWork
from integrum.sources.packing import DAMAGED
from integrum.sources.patterns import anchor, has_wildcard, is_excluded, matches
from integrum.sources.remote_search import RemoteSearch
from integrum.sources.source import Source
from integrum.sources.suffixes import (
    ARCHIVE,
    BY_SUFFIX,
    DATA,
    OtherSuffixes,
    is_data,
    is_delimited,
    is_workbook,
    never_data,
    packing_of,
    unpacked_name,
)

_REPLACED = SourceFault(
    "same-name",
    "a later member of its archive has the same name and is read instead, as in unpacking",
    "unpack the archive and give them different names to have both",
)


@dataclass(frozen=True)
class Found:
    """The sources that were found, and what is to be said of the search."""

    sources: tuple[Source, ...]  # in their order: group by group, in natural order within a group
    problems: tuple[Problem, ...]  # places that gave nothing, and the like
    # the common folder, to which the names of the sources are relative; the address of one, where all
    # places are remote
    base: Path | str
    # folders in which a run was killed while it put its outputs in their places
    unfinished: tuple[Path, ...] = ()
    # the workbooks that were looked into; see `integrum.sources.sheets.Book`
    books: Mapping[tuple[object, ...], Any] = field(default_factory=dict, repr=False)


@dataclass(frozen=True)
class _Place:
    """One entry of `find`: the folder to look in, and the pattern or the file that is meant there."""

    said: str
    folder: str
    pattern: str | None = None
    file: str | None = None

    def takes(self, name: str) -> bool:
        """Whether this place asks for a name that can be data."""
        if self.file is not None:
            return True
        if self.pattern is not None:
            return matches(name, self.pattern)
        return is_data(name) or packing_of(name) == ARCHIVE

    def misses(self, name: str) -> bool:
        """Whether the pattern takes files like this one when they are not packed."""
        if not self.pattern or not self.pattern.lower().endswith(DATA):
            return False
        if packing_of(name) == ARCHIVE:
            return matches(
                os.path.dirname(name) + "/x" if "/" in name else "x",
                f"{os.path.dirname(self.pattern)}/*".lstrip("/"),
            )
        return matches(unpacked_name(name), self.pattern)


def find_sources(groups: Sequence[Sources], folder: Path, own: OwnWork) -> Found:
    """Find the sources of a plan.

    At least one source.

    Raises NothingFound when no place gave a source; the message says for each place what is there instead. Raises
    OutputError when the output is to be written over a source.

    Parameters
    ----------
    groups
        The plan's groups of sources.
    folder
        What relative paths are relative to.
    own
        What must not be taken because Integrum wrote it.
    """
    addresses = [said for group in groups for said in group.find if is_remote(said)]
    placed = [[_place(said, folder) for said in group.find if not is_remote(said)] for group in groups]
    folders = list(dict.fromkeys(place.folder for places in placed for place in places))
    search = _Search(_common(folders) if folders else folder, own)
    remote = RemoteSearch(addresses, alone=not folders) if addresses else None
    for each in folders:
        search.learn_records(each)
    sources: list[Source] = []
    for number, (group, places) in enumerate(zip(groups, placed, strict=True), 1):
        here: list[Source] = []
        for place in places:
            gave = search.look(place, number, tuple(group.exclude))
            here += gave
            if not gave and not search.took_before(place):
                search.nothing(place)
        for said in (each for each in group.find if is_remote(each)):
            assert remote
            here += search.look_far(remote, said, tuple(group.access.items()), number, tuple(group.exclude))
        sources += sorted(here, key=lambda source: natural_key(source.name))
    if not sources:
        raise NothingFound("no source found\n" + "\n".join(f"  {line}" for line in search.empty))
    search.problems += search.others.problems(sources)
    base = remote.base if remote and remote.base else search.base
    return Found(tuple(sources), tuple(search.problems), base, tuple(search.unfinished))


# what the system shows as files, though they are none
_PSEUDO = ("/proc", "/sys", "/dev")


class _Search:
    """One search through all places of a plan."""

    def __init__(self, base: Path, own: OwnWork) -> None:
        self.base, self.own = base, own
        self.problems: list[Problem] = []
        self.empty: list[str] = []
        self.unfinished: dict[Path, None] = {}
        self._taken: set[tuple[str, int, int]] = set()
        self.others = OtherSuffixes()
        self._told: set[str] = set()
        self._repeated: set[str] = set()

    def learn_records(self, folder: str) -> None:
        with suppress(OSError), os.scandir(folder) as entries:
            for entry in entries:
                if entry.name.endswith(JOURNAL):
                    self.unfinished[Path(folder)] = None
                if _is_folder(entry):
                    self.own.learn(entry.path)

    def took_before(self, place: _Place) -> bool:
        """Whether an earlier place has taken all files of a place."""
        return place.said in self._repeated

    def look(self, place: _Place, group: int, exclude: tuple[str, ...]) -> list[Source]:
        """The new sources in a place."""
        below = os.path.relpath(place.folder, self.base).replace(os.sep, "/")
        prefix = "" if below == "." else f"{below}/"
        gave: list[Source] = []
        for relative, state in self._files(place, prefix, exclude):
            name = printable(prefix + relative)
            if is_excluded(name, exclude):
                continue
            if self.own.would_lose(state):
                raise OutputError(
                    f"{name} is one of the sources, and the run would overwrite it; name another output, or exclude "
                    "that file"
                )
            if self.own.holds(state):
                if not self.own.is_of_this_run(state):
                    self._note("own-work", name, "skipped: written by Integrum")
                continue
            path = os.path.join(place.folder, relative)
            packing = packing_of(relative)
            found = Source(name, path, group, state.st_size, (state.st_size, state.st_mtime_ns), packing)
            for source in self._members(found, exclude) if packing == ARCHIVE else [found]:
                # several groups may want different sheets of one workbook
                key = (source.path, source.member, -1 if is_delimited(source.name) else group)
                if key in self._taken:
                    self._repeated.add(place.said)
                else:
                    self._taken.add(key)
                    gave.append(source)
            if name != prefix + relative:
                self._note(
                    "name-not-unicode", name, "its name is not valid Unicode and is shown with escapes"
                )
        return gave

    def look_far(
        self, remote: RemoteSearch, address: str, access: Access, group: int, exclude: tuple[str, ...]
    ) -> list[Source]:
        """The new sources in a remote place."""
        gave: list[Source] = []
        try:
            found = remote.look(address, access, group)
            wrong, hint = f'"{address}" has no sources in it', "check the address"
        except SourceFault as fault:
            found, wrong, hint = [], f'"{address}" cannot be looked into: {fault.message}', fault.hint
        for code, name, said in remote.notes:
            if not is_excluded(name, exclude):
                self._note(code, name, said)
        remote.notes.clear()
        repeated = False
        for one in found:
            if is_excluded(one.name, exclude):
                continue
            for source in self._members(one, exclude) if one.packing == ARCHIVE else [one]:
                key = (source.path, source.member, -1 if is_delimited(source.name) else group)
                repeated = repeated or key in self._taken
                if key not in self._taken:
                    self._taken.add(key)
                    gave.append(source)
        if not gave and not repeated:
            self.empty.append(f"{wrong}; {hint}")
            self.problems.append(Problem.of("nothing-found", address, message=wrong, hint=hint))
        return gave

    def nothing(self, place: _Place) -> None:
        """Report that a place has no source, and what is there instead."""
        message, hint = _nothing(place, self.own)
        self.empty.append(f"{message}; {hint}")
        self.problems.append(Problem.of("nothing-found", place.said, message=message, hint=hint))

    def _files(
        self, place: _Place, prefix: str, exclude: tuple[str, ...]
    ) -> Iterator[tuple[str, os.stat_result]]:
        """Regular files that a place asks for: paths relative to its folder, with ``/``, and their states."""
        if place.file is not None:
            with suppress(OSError):
                state = os.stat(os.path.join(place.folder, place.file))
                if S_ISREG(state.st_mode) and not self.own.holds(os.stat(place.folder)):
                    yield place.file, state
            return
        for relative, state in self._walk(place.folder, prefix):
            never = never_data(relative.rsplit("/", 1)[-1])
            asked = place.takes(relative)
            if never and (asked or place.pattern is None):
                self._note("passed-over", prefix + relative, f"skipped: {never}")
            elif asked and S_ISREG(state.st_mode):
                yield relative, state
            elif asked:
                self._note(
                    "passed-over",
                    prefix + relative,
                    "skipped: a device, a pipe or the like",
                    "warning",
                )
            elif place.misses(relative) and not (
                self.own.holds(state) or is_excluded(prefix + relative, exclude)
            ):
                hint = "name the folder, or add a pattern for packed files"
                self._note(
                    "passed-over", prefix + relative, f'skipped: packed, and not in "{place.said}"', hint=hint
                )
            elif not (place.pattern or self.own.holds(state) or is_excluded(prefix + relative, exclude)):
                name = printable(prefix + relative)
                self.others.add(name, os.path.join(place.folder, relative), place.said)

    def _walk(self, folder: str, prefix: str) -> Iterator[tuple[str, os.stat_result]]:
        """All files below a folder; records are left out, and a folder that loops back is entered once."""
        seen: set[tuple[int, int]] = set()
        waiting = [("", folder)]
        while waiting:
            inside, here = waiting.pop()
            try:
                state = os.stat(here)
                entries = list(os.scandir(here))
            except OSError as error:
                self._note(
                    "unreadable", prefix + inside, f"the folder cannot be read: {error.strerror}", "error"
                )
                continue
            if (state.st_dev, state.st_ino) in seen:
                continue
            if inside and os.path.realpath(here) in _PSEUDO:
                self._note(
                    "passed-over", prefix + inside, "skipped: a folder of the system, without real files"
                )
                continue
            seen.add((state.st_dev, state.st_ino))
            if not entries and inside:
                self._note("passed-over", prefix + inside, "skipped: empty folder")
            files = []
            for entry in entries:
                if entry.name.endswith(JOURNAL):
                    self.unfinished[Path(here)] = None
                if not _is_folder(entry):
                    files.append(entry)
                elif not entry.name.startswith(".") and not self.own.learn(entry.path):
                    waiting.append((f"{inside}{entry.name}/", entry.path))
            for entry in files:
                try:
                    yield inside + entry.name, entry.stat()
                except OSError as error:
                    broken = (
                        "a link to a file that does not exist"
                        if entry.is_symlink()
                        else f"cannot be read: {error.strerror}"
                    )
                    self._note("unreadable", prefix + inside + entry.name, broken, "warning")

    def _members(self, archive: Source, exclude: tuple[str, ...]) -> Iterator[Source]:
        """The sources in an archive; an archive that cannot be read is a source that will be set aside."""
        try:
            with archive.packed_file() as raw, zipfile.ZipFile(raw) as opened:
                infos = opened.infolist()
        except (*DAMAGED, OSError, SourceFault):
            yield archive
            return
        last = {info.filename: member for member, info in enumerate(infos)}
        for member, info in enumerate(infos):
            if info.is_dir() or info.filename.startswith("__MACOSX/"):
                continue
            inside = info.filename.replace("\\", "/")
            name = f"{archive.name}/{printable(inside)}"
            parts = inside.split("/")
            never = never_data(parts[-1])
            if inside.startswith("/") or ".." in parts or ":" in parts[0]:
                self._note("unsafe-name", name, "skipped: its name points outside the archive", "error")
            elif never or not is_data(parts[-1]) or packing_of(parts[-1]):
                self._note(
                    "passed-over",
                    name,
                    f"skipped: {never}" if never else BY_SUFFIX,
                )
            elif not is_excluded(name, exclude):
                fault = None if last[info.filename] == member else _REPLACED
                yield replace(archive, name=name, size=info.file_size, member=member, fault=fault)

    def _note(self, code: str, name: str, message: str, severity: Severity = "note", hint: str = "") -> None:
        if name not in self._told:
            self._told.add(name)
            self.problems.append(Problem(severity, code, printable(name), message=message, hint=hint))


def _is_folder(entry: os.DirEntry[str]) -> bool:
    try:
        return entry.is_dir()
    except OSError:  # a link that leads back to itself
        return False


def printable(name: str) -> str:
    """A name as text that can be written anywhere; bytes that are not Unicode show as escapes."""
    return os.fsencode(name).decode("utf-8", "backslashreplace")


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


def _nothing(place: _Place, own: OwnWork) -> tuple[str, str]:
    path = os.path.join(place.folder, place.file or "")
    if place.file is not None and os.path.exists(path):
        if own.holds(os.stat(path)) or own.holds(os.stat(place.folder)):
            return f'"{place.said}" was written by Integrum', "name the files that it was made from"
        return f'"{place.said}" has no sources in it', "it is excluded, or it is not a regular file"
    if os.path.isfile(place.folder) and is_workbook(place.folder):
        book, sheet = os.path.basename(place.folder), place.file or place.pattern
        said = f'name "{book}", and choose the sheet: sheets = ["{sheet}"], or --sheets "{sheet}"'
        return f'"{place.said}" is not a file', said
    there = Path(place.folder)
    if os.path.isdir(there) and place.pattern is None and place.file is None:
        return (
            f'the folder "{place.said}" does not have any file with one of the suffixes {", ".join(DATA)}',
            _what_is_in(there),
        )
    while not os.path.isdir(there):
        there = there.parent
    kind, gave = ("pattern", "matches no file") if place.pattern else ("path", "does not exist")
    if any(letter < " " for letter in place.said):
        return (
            f"the {kind} {place.said!r} {gave}",
            'a backslash in double quotes has a special meaning: write paths with "/", or in single quotes',
        )
    if "\\" in place.said:
        with_slashes = place.said.replace("\\", "/")
        return f'the {kind} "{place.said}" {gave}', f'write / between folders: "{with_slashes}"'
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
    return f'"{folder}" has in it: {", ".join(shown)}{rest}{files_said}'
