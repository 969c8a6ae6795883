"""Put a table and its record in a remote place: each file whole, and what tells of the run last."""

from __future__ import annotations

import logging
import os
import secrets
from collections.abc import Callable, Collection, Iterable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TypeVar

from integrum.errors import OutputError
from integrum.problems.problem import SourceFault
from integrum.record.hashing import hash_in
from integrum.remote.access import Access
from integrum.remote.addresses import scheme_of
from integrum.remote.files import again, file_system
from integrum.remote.listing import below_address

_log = logging.getLogger(__name__)

Result = TypeVar("Result")


def publish(files: Sequence[tuple[Path, str]], gone: Iterable[str], access: Access) -> None:
    """Write files to a remote place under hidden names, and give them their names when all are there.

    Raises OutputError when one of them cannot be written; as long as not all are there, nothing has its name.

    Parameters
    ----------
    files
        Where each is, and its address; they get their names in this order.
    gone
        Addresses of what an earlier run left and this one does not have.
    """
    tag = secrets.token_hex(4)
    hidden = [(address, _hidden(address, tag)) for _, address in files]
    try:
        for (path, _), (address, place) in zip(files, hidden, strict=True):
            _log.info("writing %s", address)
            _to(place, access, lambda system, there, path=path: system.put_file(str(path), there))
        for address, place in hidden:
            _move(place, address, access)
        for address in gone:
            _to(address, access, lambda system, there: system.rm_file(there))
    except (SourceFault, NotImplementedError) as error:
        said = (
            error.message
            if isinstance(error, SourceFault)
            else f"{scheme_of(files[0][1])}:// cannot be written to"
        )
        raise OutputError(f"cannot write {files[0][1]}: {said}") from error
    finally:
        for _, place in hidden:
            with suppress(Exception):
                system, there = file_system(place, access)
                if system.exists(there):
                    system.rm_file(there)


def _hidden(address: str, tag: str) -> str:
    folder, _, name = address.rpartition("/")
    return f"{folder}/.{name}.integrum-{tag}"


def _to(address: str, access: Access, work: Callable[..., object]) -> None:
    def ask() -> None:
        system, there = file_system(address, access)
        with suppress(Exception):  # an object store has no folders to make
            system.makedirs(there.rsplit("/", 1)[0], exist_ok=True)
        work(system, there)

    again(ask, address, access)


def _move(place: str, address: str, access: Access) -> None:
    def ask() -> None:
        system, there = file_system(place, access)
        _, final = file_system(address, access)
        if system.exists(there):  # else it was moved in the attempt before
            with suppress(FileNotFoundError):
                if scheme_of(address) in _NOT_OVER:
                    system.rm_file(final)
            system.mv(there, final)

    again(ask, address, access)


# where a file does not take the place of another
_NOT_OVER = ("sftp", "ssh", "ftp")


def there_is(address: str, access: Access) -> bytes | None:
    """The content of a small remote file; None when it is not there.

    Raises OutputError when the place does not answer.
    """

    def ask() -> bytes | None:
        system, there = file_system(address, access)
        with suppress(AttributeError):
            system.invalidate_cache()
        try:
            data: bytes = system.cat_file(there)
        except FileNotFoundError:
            return None
        return data

    return _answered(ask, address, access)


def is_there_as(address: str, access: Access, hashes: Collection[str]) -> bool | None:
    """Whether a file at a remote place has one of some hashes; None when there is no file.

    Raises OutputError when the place does not answer.
    """

    def ask() -> bool | None:
        system, there = file_system(address, access)
        with suppress(AttributeError):
            system.invalidate_cache()
        try:
            if not hashes:
                return False if system.exists(there) else None
            with system.open(there, "rb") as file:
                return hash_in(file) in hashes
        except FileNotFoundError:
            return None

    return _answered(ask, address, access)


def names_below(address: str, access: Access) -> list[str]:
    """The addresses of all files below a folder."""

    def ask() -> list[str]:
        system, there = file_system(address, access)
        with suppress(AttributeError):
            system.invalidate_cache()
        root = there.rstrip("/")
        found = system.find(root) if system.exists(root) else []
        return [below_address(address, name, root) for name in found]

    return _answered(ask, address, access)


def _answered(ask: Callable[[], Result], address: str, access: Access) -> Result:
    try:
        return again(ask, address, access)
    except SourceFault as fault:
        raise OutputError(f"{address}: {fault.message}; {fault.hint}") from fault


def files_in(folder: Path) -> list[Path]:
    """All files below a folder of this machine, in order."""
    return sorted(Path(here) / name for here, _, names in os.walk(folder) for name in names)
