"""Read a file at a remote place: ranges where the place allows it, and again when it fails midway."""

from __future__ import annotations

import hashlib
import io
import logging
import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock
from typing import Any, TypeVar

from integrum.errors import ExtraNeeded, IntegrumError
from integrum.problems.problem import SourceFault
from integrum.remote.access import Access, options_of, without_secrets
from integrum.remote.addresses import WEB, scheme_of

_log = logging.getLogger(__name__)

Result = TypeVar("Result")

# a place is asked this many times in all, with pauses of this many seconds between
PAUSES = (0.5, 1.0, 2.0, 4.0)
TRIES = len(PAUSES) + 1
# a file of this few bytes is fetched as a whole, and this many bytes of such files are kept for the next reading
_WHOLE, _KEPT = 4 << 20, 64 << 20
# what another attempt does not change
_FINAL = (
    FileNotFoundError,
    PermissionError,
    IsADirectoryError,
    NotADirectoryError,
    IntegrumError,
    ImportError,
)


def file_system(address: str, access: Access) -> tuple[Any, str]:
    """The file system of an address, and the path in it.

    Raises ExtraNeeded when the packages for it are not installed. Raises SourceFault when there is nothing that knows
    such places.
    """
    try:
        import fsspec
    except ImportError:
        raise ExtraNeeded(f"{scheme_of(address)}://", "remote") from None
    options = options_of(access)
    if scheme_of(address) in WEB:
        options = {"client_kwargs": {"timeout": _patient()}} | options
    if scheme_of(address) in ("s3", "s3a"):  # it is asked again from here
        options = {"config_kwargs": {"retries": {"total_max_attempts": 1}}} | options
    try:
        system, path = fsspec.core.url_to_fs(address, **options)
    except ImportError:
        raise ExtraNeeded(f"{scheme_of(address)}://", "remote") from None
    except ValueError as error:
        raise SourceFault(
            "unreadable",
            f"{scheme_of(address)}:// is not a known kind of place: {error}",
            "check the address",
        ) from error
    return system, path


def _patient() -> Any:
    from aiohttp import ClientTimeout

    return ClientTimeout(total=None, sock_connect=30, sock_read=60)


@dataclass(frozen=True)
class RemoteState:
    """The size and version of a remote file."""

    size: int  # bytes; -1 when it does not say
    changed: int  # time of the last change (ns); 0 when it does not say
    tag: str  # its etag, or what else stands for its content; empty when the place does not say
    ranges: bool = True  # whether parts of it can be read on their own

    @classmethod
    def of(cls, info: dict[str, Any]) -> RemoteState:
        """From what a file system says."""
        size = info.get("size")
        tag = next(
            (
                str(info[name])
                for name in ("ETag", "etag", "Content-MD5", "md5", "generation")
                if info.get(name)
            ),
            "",
        )
        return cls(
            -1 if size is None else int(size),
            _time(info),
            tag,
            size is not None and info.get("partial") is not False,
        )


_TAGS = ("ETag", "etag", "Content-MD5", "md5", "generation")


def _time(info: dict[str, Any]) -> int:
    for name in ("LastModified", "Last-Modified", "mtime", "last_modified", "created"):
        said = info.get(name)
        if isinstance(said, str):
            from email.utils import parsedate_to_datetime

            with suppress(ValueError, TypeError):
                said = parsedate_to_datetime(said)
        if isinstance(said, datetime):
            at = said if said.tzinfo else said.replace(tzinfo=UTC)
            return int(at.timestamp() * 1_000_000) * 1_000
        if isinstance(said, (int, float)) and said > 0:
            return int(said * 1_000_000) * 1_000
    return 0


def mark_of(tag: str) -> int:
    """A negative number for an etag, in place of a time of change.

    Examples
    --------
    >>> mark_of('"9f"') < 0
    True
    """
    return -1 - (int.from_bytes(hashlib.blake2b(tag.encode(), digest_size=8).digest(), "big") >> 1)


def state_at(address: str, access: Access) -> RemoteState:
    """Ask a place about a file.

    Raises SourceFault when it does not answer, or the file is not there.
    """

    def ask() -> RemoteState:
        system, path = file_system(address, access)
        with suppress(AttributeError):
            system.invalidate_cache()
        return RemoteState.of(system.info(path))

    return again(ask, address, access)


def again(work: Callable[[], Result], address: str, access: Access) -> Result:
    """Try something up to five times, with pauses.

    Raises SourceFault when it fails each time.
    """
    for number in range(TRIES):
        try:
            return work()
        except Exception as error:
            if isinstance(error, IntegrumError):
                raise
            said = _said(error, access)
            if _is_final(error):
                if getattr(_cause_of(error), "status", None) in _REFUSED or isinstance(
                    error, PermissionError
                ):
                    hint = "you may not read it there; check `access`, or ask who may"
                    raise SourceFault("unreadable", f"its place refuses access: {said}", hint) from None
                hint = "check the address, and who may read it"
                raise SourceFault("unreadable", f"its place says: {said}", hint) from None
            if number == TRIES - 1:
                raise SourceFault(
                    "unreadable",
                    f"{TRIES} attempts failed, the last one with: {said}",
                    "check the connection, and run it again",
                ) from None
            _log.info("trying again in %s s: %s (%s)", PAUSES[number], address, said)
        _pause(PAUSES[number])
    raise AssertionError


def _pause(seconds: float) -> None:
    time.sleep(seconds)


def _is_final(error: BaseException) -> bool:
    """Whether another try would fail in the same way."""
    cause = _cause_of(error)
    status = getattr(cause, "status", None)
    if isinstance(status, int):
        return 400 <= status < 500 and status not in _BUSY
    return isinstance(cause, _FINAL) or type(cause).__name__ in _NO_ENTRY


def _cause_of(error: BaseException) -> BaseException:
    """What is behind an error; a server that cannot be reached is given out as a file that is not there."""
    return error.__cause__ if isinstance(error, FileNotFoundError) and error.__cause__ else error


# a server that asks for patience: request timeout, too early, too many requests
_BUSY = (408, 425, 429)
# and one that does not let everybody in: unauthorized, payment required, forbidden, proxy authentication
_REFUSED = (401, 402, 403, 407)
_NO_ENTRY = (
    "NoCredentialsError",
    "PartialCredentialsError",
    "AuthenticationException",
    "BadHostKeyException",
)


def _said(error: BaseException, access: Access) -> str:
    cause = _cause_of(error)
    status, reason = getattr(cause, "status", None), getattr(cause, "message", "")
    said = f"{status} {reason}" if isinstance(status, int) else str(cause).strip() or type(cause).__name__
    if isinstance(cause, FileNotFoundError):
        said = f"there is no such file: {said}"
    return without_secrets(said, access).splitlines()[0][:300]


class RemoteFile(io.RawIOBase):
    """A file at a remote place.

    Parameters
    ----------
    size
        Its bytes; -1 when that is not known.
    ranges
        Whether parts of it can be read on their own; else it is read from its start, and can only be skipped forward.
    tag
        What stands for its content; small files that have it are kept for the next reading.
    """

    def __init__(self, address: str, access: Access, size: int, ranges: bool, tag: str) -> None:
        super().__init__()
        self._address, self._access, self._size, self._ranges = address, access, size, ranges
        self._tag, self._at = tag, 0
        self._stream: Any = None
        self._stream_at = 0

    def readable(self) -> bool:
        """It can be read."""
        return True

    def seekable(self) -> bool:
        """Any place in it can be gone to."""
        return True

    def tell(self) -> int:
        """Where it stands."""
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go somewhere."""
        if whence == io.SEEK_END and self._size < 0:
            raise io.UnsupportedOperation("the place does not say how large it is")
        self._at = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._size}[whence] + offset
        return self._at

    def readinto(self, room: Any) -> int:
        """Read the next bytes."""
        want = len(room)
        if self._size >= 0:
            want = min(want, self._size - self._at)
        if want <= 0:
            return 0
        data = again(lambda: self._read(want), self._address, self._access)
        room[: len(data)] = data
        self._at += len(data)
        return len(data)

    def _read(self, want: int) -> bytes:
        if 0 <= self._size <= _WHOLE:
            return self._whole()[self._at : self._at + want]
        if self._ranges:
            system, path = file_system(self._address, self._access)
            data: bytes = system.cat_file(path, start=self._at, end=self._at + want)
            if len(data) != want:
                raise OSError(f"asked for {want:,} bytes, and got {len(data):,}")
            return data
        return self._forward(want)

    def _whole(self) -> bytes:
        key = (self._address, self._access, self._size, self._tag)
        if self._tag and (kept := _kept.get(key)) is not None:
            return kept
        system, path = file_system(self._address, self._access)
        data: bytes = system.cat_file(path)
        if len(data) != self._size:
            raise OSError(f"it should have {self._size:,} bytes, and {len(data):,} came")
        if self._tag:
            _kept.put(key, data)
        return data

    def _forward(self, want: int) -> bytes:
        try:
            if self._stream is None or self._stream_at > self._at:
                self._close_stream()
                system, path = file_system(self._address, self._access)
                self._stream, self._stream_at = system.open(path, "rb", block_size=0), 0
            while self._stream_at < self._at:
                skipped = self._stream.read(min(self._at - self._stream_at, 1 << 20))
                if not skipped:
                    return b""
                self._stream_at += len(skipped)
            data: bytes = self._stream.read(want)
        except BaseException:
            self._close_stream()
            raise
        self._stream_at += len(data)
        if not data and 0 <= self._size != self._at:
            self._close_stream()
            raise OSError(f"it ended after {self._at:,} of {self._size:,} bytes")
        return data

    def _close_stream(self) -> None:
        if self._stream is not None:
            with suppress(Exception):
                self._stream.close()
        self._stream = None

    def close(self) -> None:
        """Let go of it."""
        self._close_stream()
        super().close()


class _Kept:
    """A cache of small files."""

    def __init__(self) -> None:
        self._data: OrderedDict[Any, bytes] = OrderedDict()
        self._size, self._lock = 0, Lock()

    def get(self, key: Any) -> bytes | None:
        with self._lock:
            if key in self._data:
                self._data.move_to_end(key)
            return self._data.get(key)

    def put(self, key: Any, data: bytes) -> None:
        with self._lock:
            if key not in self._data:
                self._data[key] = data
                self._size += len(data)
            while self._size > _KEPT:
                self._size -= len(self._data.popitem(last=False)[1])


_kept = _Kept()
