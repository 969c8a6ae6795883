"""What is at a remote place: files below a folder, in an object store, on a server, or among the links of a page."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from integrum.problems.problem import SourceFault
from integrum.record.run_file import NAME, outputs_in
from integrum.remote.access import Access
from integrum.remote.addresses import WEB, scheme_of
from integrum.remote.files import RemoteState, again, file_system, state_at

# a place is asked about this many files at one time
_AT_ONCE = 16
_DEEPEST = 12
ListedFile = tuple[str, RemoteState | SourceFault]


def files_below(folder: str, access: Access) -> list[ListedFile]:
    """All files below a folder, with their addresses; of a server's page those that it links to.

    Raises SourceFault when the place does not answer.
    """
    if scheme_of(folder) in WEB:
        return states_of(_links(folder, access), access)

    def ask() -> list[ListedFile]:
        system, path = file_system(folder, access)
        system.invalidate_cache()
        root = path.rstrip("/")
        return [
            (below_address(folder, name, root), RemoteState.of(info))
            for name, info in system.find(root, detail=True).items()
            if info.get("type") != "directory"
        ]

    return again(ask, folder, access)


def below_address(folder: str, name: str, root: str) -> str:
    """The address of what a file system gives a name, below a folder that it names as `root`.

    Examples
    --------
    >>> below_address("sftp://lakes.example/data", "/data/may/a.csv", "/data")
    'sftp://lakes.example/data/may/a.csv'
    """
    return f"{folder.rstrip('/')}/{name[name.index(root) + len(root) :].lstrip('/')}"


def states_of(addresses: Iterable[str], access: Access) -> list[ListedFile]:
    """The state of each file, or why it cannot be read."""

    def ask(address: str) -> ListedFile:
        try:
            return address, state_at(address, access)
        except SourceFault as fault:
            return address, fault

    with ThreadPoolExecutor(_AT_ONCE) as pool:
        return list(pool.map(ask, addresses))


def _links(page: str, access: Access) -> list[str]:
    """The addresses that a page and the pages of the folders below it link to."""
    root = page.rstrip("/") + "/"
    found: dict[str, None] = {}
    waiting, seen = [(root, 0)], {root}
    while waiting:
        here, depth = waiting.pop()
        for link in _links_of(here, access):
            if not link.startswith(root) or "?" in link or "#" in link or "/.." in link:
                continue
            if not link.endswith("/"):
                found[link] = None
            elif link not in seen and depth < _DEEPEST:
                seen.add(link)
                waiting.append((link, depth + 1))
    return list(found)


def _links_of(page: str, access: Access) -> Iterator[str]:
    def ask() -> Any:
        system, path = file_system(page, access)
        system.invalidate_cache()
        return system.ls(path, detail=False)

    return iter(again(ask, page, access))


def kind_of(address: str, access: Access) -> str:
    """``"file"``, ``"folder"``, or nothing when it is not there.

    Raises SourceFault when the place does not answer.
    """
    if scheme_of(address) in WEB:
        return "folder" if address.endswith("/") else "file"

    def ask() -> str:
        system, path = file_system(address, access)
        system.invalidate_cache()
        try:
            return "folder" if system.info(path)["type"] == "directory" else "file"
        except FileNotFoundError:
            return ""

    return again(ask, address, access)


def own_work(listed: Iterable[ListedFile], access: Access) -> set[str]:
    """The addresses of records among some files, as folders with ``/`` behind, and of the outputs that they tell of."""
    found: set[str] = set()
    for address, _ in listed:
        if address.rsplit("/", 1)[-1] != NAME:
            continue
        folder = address[: -len(NAME)]
        try:
            outputs = outputs_at(folder, again(lambda: _text(address, access), address, access))  # noqa: B023
        except SourceFault:
            continue
        if outputs is not None:
            found.add(folder)
            for output in outputs:
                found |= {output, f"{output}-metadata.json", f"{output}/"}
    return found


def outputs_at(record: str, run: bytes) -> list[str] | None:
    """The addresses of the outputs that the record at an address tells of; None where it is no record."""
    said = outputs_in(run)
    return None if said is None else [beside(record, path) for path in said]


def _text(address: str, access: Access) -> bytes:
    system, path = file_system(address, access)
    data: bytes = system.cat_file(path)
    return data


def beside(folder: str, path: str) -> str:
    """The address of what a record at an address names by a relative path."""
    parts = folder.rstrip("/").split("/")
    for part in path.split("/"):
        if part == "..":
            parts.pop()
        elif part != ".":
            parts.append(part)
    return "/".join(parts)
