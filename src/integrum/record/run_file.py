"""`run.json` of a record: what a run says of itself, as an object with types; no other file takes it apart."""

from __future__ import annotations

import base64
import json
import os
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import MISSING, dataclass, field, fields, is_dataclass
from functools import cache
from pathlib import Path
from typing import Any, get_args, get_origin, get_type_hints

from blake3 import blake3

from integrum.errors import OutputError
from integrum.problems.lost import Lost

NAME = "run.json"
# lists the hashes of all files that a run wrote; see `integrum.publish.write`
MANIFEST = "manifest-blake3.txt"
MARK = "integrum"
# raised when the files of a record change in a way that matters to who reads them; and what this version reads
SCHEMA = 9
READABLE = (6, 7, 8, SCHEMA)


@dataclass(frozen=True)
class OutputFile:
    """An output: where it is, relative to the record, its rows, bytes and hash, and its time of change (ns)."""

    path: str
    rows: int
    bytes: int
    blake3: str
    modified: int = 0


@dataclass(frozen=True)
class TableColumn:
    """A column of the table, with its Arrow type."""

    name: str
    type: str


@dataclass(frozen=True)
class CodeFile:
    """A function of the analyst's own, such as ``../steps.py:depth``, and the hash of its file."""

    function: str
    blake3: str


@dataclass(frozen=True)
class FileState:
    """Size and time of change (ns) of a file."""

    bytes: int
    modified: int


@dataclass(frozen=True)
class RunFile:
    """The content of ``run.json``. Fields with a default are not in older records."""

    # the schema of the record, and what wrote it
    schema: int
    version: str
    python: str
    platform: str
    pyarrow: str
    # when the run began (ISO 8601, UTC), and how long it took
    started: str
    seconds: float
    # rows and columns of the table
    rows: int
    columns: tuple[TableColumn, ...]
    sources: Mapping[str, int]  # how many were ``"found"``, ``"assembled"`` and ``"set-aside"``
    problems: Mapping[str, int]  # how many there are of each severity
    tracebacks: Mapping[str, str]  # of sources that failed in a way that was not foreseen, by name
    outputs: tuple[OutputFile, ...]
    plan_blake3: str
    code: tuple[CodeFile, ...]  # the functions of the analyst's own
    guard_formulas: bool  # whether CSV is guarded against formulas
    common_folder: str  # the common folder of the sources
    numpy: str = ""
    # where the table was asked for: a name, perhaps with identifiers in it; with ``/`` behind for folders
    to: str = ""
    # the file that the plan was read from, or an empty text; and the hash of ``plan.toml`` in the record
    plan_file: str = ""
    drafted: bool = False  # whether the plan was drafted for this run
    lost: Lost = field(default_factory=Lost)  # what is not in the table
    source_files: Mapping[str, FileState] = field(default_factory=dict)
    files: tuple[str, ...] = ()  # the files of the record that the manifest lists
    manifest_blake3: str = ""  # the hash of the manifest
    # outputs of earlier runs that this one did not make, and that were changed since: they were left where they are
    left: tuple[OutputFile, ...] = ()
    methods_blake3: str = ""  # the hash of ``methods.txt``, which names the seal
    blake3: str = ""  # the hash of all of the above

    @property
    def column_names(self) -> list[str]:
        """The names of the columns of the table."""
        return [one.name for one in self.columns]

    def write(self, folder: Path, named: Callable[[str], str] = lambda _: "") -> str:
        """Write it into a folder. Returns the seal.

        `named`: gets the seal, writes ``methods.txt`` with it, and gives the hash of that.
        """
        in_order = {"made_by": MARK} | {name: getattr(self, name) for name in ORDER}
        said = json.loads(json.dumps(in_order, default=vars))
        seal = _seal(said)
        said["methods_blake3"] = named(seal)
        said["blake3"] = _hash_of_all(said)
        text = json.dumps(said, indent=2, ensure_ascii=False)
        (folder / NAME).write_text(text + "\n", encoding="utf-8", errors="backslashreplace")
        return seal


# the order of the keys in the file
ORDER = (
    "schema", "version", "python", "platform", "pyarrow", "numpy", "started", "seconds", "rows", "columns", "sources",
    "problems", "lost", "tracebacks", "outputs", "to", "plan_file", "drafted", "plan_blake3", "code", "guard_formulas",
    "common_folder", "source_files", "files", "left", "manifest_blake3", "methods_blake3",
)  # fmt: skip
# keys that no seal covers: when and by what the table was made, and what earlier runs have left; so that who makes the
# same table elsewhere gets the same seal
_TIMES = {"started", "seconds", "source_files", "left", "methods_blake3", "blake3"}
_UNSEALED = _TIMES | {"version", "python", "platform", "pyarrow", "numpy", "tracebacks"}
_LISTED = re.compile(rb"^[0-9a-f]{64}  (.*)$", re.M)
# a record whose run.json is damaged is known by a manifest that lists these
_ALWAYS = {b"plan.toml", b"sources.csv"}
# letters of a seal, and of each of its groups
_LENGTH, _GROUP = 20, 5


def read_run(folder: Path) -> RunFile:
    """Read the ``run.json`` of a record.

    Raises OutputError when it is no record, one of another schema, or one of a wrong shape: then it names the key,
    and says what was expected there.
    """
    said = _load(folder)
    if said is None:
        raise OutputError(f"{folder} is not a record")
    schema = said.get("schema", 1)
    if schema not in READABLE:
        raise OutputError(
            f"{folder} is a record of schema {schema}; this version of Integrum reads "
            f"{', '.join(map(str, READABLE[:-1]))} and {READABLE[-1]}"
        )
    try:
        made: RunFile = _read(RunFile, said, "")
    except ValueError as error:
        raise OutputError(f"{folder} is not a complete record: {NAME}: {error}") from error
    return made


def is_record(folder: str | os.PathLike[str]) -> bool:
    """Whether a folder is a record, of any schema and even a damaged one.

    Examples
    --------
    >>> is_record("no-such-folder")
    False
    """
    return _load(Path(folder)) is not None or _ALWAYS.issubset(_listed(Path(folder)))


def is_whole(folder: Path) -> bool:
    """Whether ``run.json`` is unchanged, by the hash in it."""
    said = _load(folder) or {}
    return bool(said) and said.get("blake3") == _hash_of_all(said)


def seal_of(folder: Path) -> str:
    """The seal of a table and its record: a hash of 100 bits over ``run.json``, which has that of the manifest.

    Times, and the versions of the software, are not in it.

    Returns 20 letters and digits in groups of five; an empty text when there is no ``run.json`` that can be read.
    """
    said = _load(folder)
    return _seal(said) if said else ""


def methods_hash(folder: Path) -> str:
    """The hash of ``methods.txt`` as its run has written it; empty when that is not known."""
    said = (_load(folder) or {}).get("methods_blake3")
    return said if isinstance(said, str) else ""


def same_seal(one: str, other: str) -> bool:
    """Whether two seals are the same, however they are written.

    Examples
    --------
    >>> same_seal("abcde fghij klmno pqrst", "ABCDE-FGHIJ-KLMNO-PQRST")
    True
    """
    plain, others = (re.sub(r"[\s-]", "", each).upper() for each in (one, other))
    return plain == others != ""


def _hash_of_all(said: Mapping[str, Any]) -> str:
    """The hash of what a ``run.json`` says, without that hash."""
    return str(_hashed({key: value for key, value in said.items() if key != "blake3"}).hexdigest())


def _seal(said: Mapping[str, Any]) -> str:
    timeless = {key: value for key, value in said.items() if key not in _UNSEALED}
    outputs = timeless.get("outputs")
    if isinstance(outputs, list):
        timeless["outputs"] = [
            {key: value for key, value in one.items() if key != "modified"} if isinstance(one, dict) else one
            for one in outputs
        ]
    letters = base64.b32encode(_hashed(timeless).digest()).decode()[:_LENGTH]
    return "-".join(letters[at : at + _GROUP] for at in range(0, _LENGTH, _GROUP))


def _hashed(said: object) -> Any:
    return blake3(json.dumps(said, sort_keys=True).encode())


def outputs_of(folder: str | os.PathLike[str]) -> list[str]:
    """Where the outputs lie that a record belongs to; of any schema."""
    said = _load(Path(folder)) or {}
    return [os.path.abspath(Path(folder) / path) for path, _ in _outputs(said)]


def asked_for(folder: str | os.PathLike[str]) -> str:
    """The path to which the table of a record was asked; empty when unknown."""
    said = (_load(Path(folder)) or {}).get("to")
    return os.path.abspath(Path(folder) / said) if isinstance(said, str) and said else ""


def wrote(folder: str | os.PathLike[str]) -> dict[str, list[str]]:
    """The outputs that runs wrote here, with their hashes, also those no longer made."""
    said = _load(Path(folder)) or {}
    found: dict[str, list[str]] = {}
    for path, content in (*_outputs(said), *_outputs({"outputs": said.get("left")})):
        found.setdefault(os.path.abspath(Path(folder) / path), []).append(content)
    return found


def outputs_in(data: bytes) -> list[str] | None:
    """The outputs that a ``run.json`` names, relative to its record; None where it is not of a record.

    Examples
    --------
    >>> outputs_in(b'{"made_by": "integrum", "outputs": [{"path": "../lakes.csv", "bytes": 3}]}'), outputs_in(b"[]")
    (['../lakes.csv'], None)
    """
    said = _parsed(data)
    return None if said is None else [path for path, _ in _outputs(said)]


def _load(folder: Path) -> dict[str, Any] | None:
    try:
        return _parsed((folder / NAME).read_bytes())
    except (OSError, ValueError):  # there can be no path with NUL in it
        return None


def _listed(folder: Path) -> list[bytes]:
    """The paths in the manifest of a record, by which one is known whose ``run.json`` is damaged."""
    try:
        return _LISTED.findall((folder / MANIFEST).read_bytes())
    except (OSError, ValueError):
        return []


def _parsed(data: bytes) -> dict[str, Any] | None:
    try:
        said = json.loads(data)
    except (ValueError, RecursionError):
        return None
    return said if isinstance(said, dict) and said.get("made_by") == MARK else None


def _outputs(said: Mapping[str, Any]) -> Iterator[tuple[str, str]]:
    """The paths of the outputs, with their hashes."""
    some = said.get("outputs")
    if not isinstance(some, list):  # a record of the first schema has one
        some = [{"path": said.get("output")}]
    for one in some:
        path = one.get("path") if isinstance(one, dict) else None
        if isinstance(path, str) and path and "\0" not in path:
            yield path, str(one.get("blake3", ""))


_WORDS = {int: "a whole number", float: "a number", str: "a text", bool: "true or false"}


def _read(kind: Any, value: Any, place: str) -> Any:
    """Convert a value of JSON to a type.

    Raises ValueError: naming the place and what was expected there.
    """
    if isinstance(kind, type) and is_dataclass(kind):
        if not isinstance(value, dict):
            raise ValueError(f"{place or 'it'} should be an object")
        made = {}
        for name, inner, is_due in _fields(kind):
            here = f"{place}.{name}" if place else name
            if name in value:
                made[name] = _read(inner, value[name], here)
            elif is_due:
                raise ValueError(f"{here} is missing")
        return kind(**made)
    origin = get_origin(kind)
    if origin is tuple:
        if not isinstance(value, list):
            raise ValueError(f"{place} should be a list")
        return tuple(_read(get_args(kind)[0], one, f"{place}[{at}]") for at, one in enumerate(value))
    if origin is not None:
        if not isinstance(value, dict):
            raise ValueError(f"{place} should be an object")
        return {key: _read(get_args(kind)[1], one, f'{place}["{key}"]') for key, one in value.items()}
    if isinstance(value, str) and "\0" in value:
        raise ValueError(f"{place} should be a text without NUL")
    is_whole = isinstance(value, int) and not isinstance(value, bool)
    is_good = is_whole or isinstance(value, float) if kind is float else is_whole if kind is int else False
    if not (is_good or (kind in (str, bool) and isinstance(value, kind))):
        raise ValueError(f"{place} should be {_WORDS[kind]}")
    return value


@cache
def _fields(kind: type) -> list[tuple[str, Any, bool]]:
    """The fields of a class: name, type, and whether it has to be there."""
    types = get_type_hints(kind)
    return [
        (one.name, types[one.name], one.default is one.default_factory is MISSING) for one in fields(kind)
    ]
