"""Write the record of a run, its manifest, and what its outputs say of themselves."""

from __future__ import annotations

import platform
import re
import sys
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import numpy as np
import pyarrow as pa
from blake3 import blake3

from integrum.assembling.run import RunResult
from integrum.measures.items import Cells
from integrum.measures.measures import FILES
from integrum.measures.tables import METHODS, PAGES, PLAN
from integrum.plan.plan import Plan
from integrum.plan.toml import Remarks, moved, write_plan
from integrum.problems.codes import SEVERITIES
from integrum.problems.problem import number_of
from integrum.publish.methods import methods_of
from integrum.publish.tables_about import names_of, write_values
from integrum.record.hashing import hash_of
from integrum.record.run_file import (
    MANIFEST,
    NAME,
    SCHEMA,
    CodeFile,
    FileState,
    OutputFile,
    RunFile,
    TableColumn,
    is_whole,
)
from integrum.record.table import Places
from integrum.remote.addresses import below, is_remote
from integrum.version import __version__
from integrum.writing.csvw import Described, metadata_of

_LINE = re.compile(r"([0-9a-f]{64})  (\S.*)")
_SIGNS = {"%": "%25", "\r": "%0D", "\n": "%0A"}


def write_manifest(folder: Path, beside: Mapping[str, str]) -> str:
    """Write the manifest of a record whose other files but ``run.json`` are written.

    Returns its hash.

    `beside`: the hashes of the outputs and their metadata, by their paths relative to the record.
    """
    hashes = {**{name: hash_of(folder / name) for name in listed_in(folder)}, **beside}
    lines = (f"{hashes[path]}  {_coded(path)}\n" for path in sorted(hashes))
    (folder / MANIFEST).write_text("".join(lines), encoding="utf-8", newline="\n")
    return hash_of(folder / MANIFEST)


def listed_in(folder: Path) -> list[str]:
    """The files that the manifest of a record lists: all but itself, ``run.json``, and pages made from them."""
    others = (*PAGES, METHODS, MANIFEST, NAME)
    return [name for name in sorted(FILES) if name not in others and (folder / name).exists()]


def read_manifest(folder: Path) -> dict[str, str]:
    """The hashes in a manifest, by path relative to the record. Lines that cannot be read are skipped."""
    with suppress(OSError):
        return manifest_in((folder / MANIFEST).read_bytes())
    return {}


def manifest_in(data: bytes) -> dict[str, str]:
    """The hashes in the bytes of a manifest."""
    found: dict[str, str] = {}
    with suppress(UnicodeDecodeError):
        for line in data.decode().split("\n"):
            if fits := _LINE.fullmatch(line):
                path = fits[2]
                for sign, code in reversed(_SIGNS.items()):
                    path = path.replace(code, sign)
                found[path] = fits[1]
    return found


def changed_in(folder: Path, manifest: str) -> list[str]:
    """The files of a record that are not as its run wrote them: changed, missing, or not listed; in order.

    `manifest`: the hash of the manifest, as ``run.json`` has it.
    """
    listed = read_manifest(folder)
    names = {name for name in listed if name in FILES} | set(listed_in(folder))
    changed = [name for name in names if not is_listed(folder, name, listed)]
    changed += [MANIFEST] * (not is_listed(folder, MANIFEST, {MANIFEST: manifest}))
    return sorted(changed + [NAME] * (not is_whole(folder)))


def is_listed(folder: Path, path: str, listed: Mapping[str, str]) -> bool:
    """Whether a file is as a manifest lists it."""
    try:
        return path in listed and hash_of(folder / path) == listed[path]
    except OSError:
        return False


def _coded(path: str) -> str:
    for sign, code in _SIGNS.items():
        path = path.replace(sign, code)
    return path


@dataclass(frozen=True)
class WrittenOutput:
    """An output that was written: where it will lie, its rows, its bytes, its content hash, and when (ns)."""

    path: Path
    rows: int
    bytes: int
    content: str
    modified: int = 0


@dataclass(frozen=True)
class UnchangedOutput:
    """An earlier output that stays where it is, as every row of it is taken over in order."""

    output: WrittenOutput
    # the bytes before its rows in a CSV; and its first and its last rows, as its record has them
    begins_at: int
    first: Sequence[Cells]
    last: Sequence[Cells]


@dataclass(frozen=True)
class About:
    """What a record says of its run besides the result."""

    # the plan as used, its paths absolute; and the evidence, when it was drafted on the fly
    plan: Plan
    remarks: Remarks
    base: Path | str  # the common folder of the sources, or its address
    started: datetime  # when the run began
    guarded: bool = False  # whether the output and the record are guarded against formulas
    code: Sequence[tuple[str, str]] = ()  # the functions of the analyst's own, and the hashes of their files
    plan_file: Path | None = None  # the file that the plan was read from; None when there was none
    drafted: bool = False  # whether the plan was drafted for this run
    # where the table shall lie, perhaps with identifiers in the name; None when it is in no file
    to: Path | None = None
    in_files: bool = False  # whether it is a folder of Parquet files
    # whether table and record go to a remote place; then what stays on this machine has absolute paths
    is_far: bool = False
    # size and time of the last change (ns) of the files of the sources, by the names of these
    states: Mapping[str, tuple[int, int]] = field(default_factory=dict)


def write_record(
    folder: Path,
    final: Path,
    about: About,
    made: RunResult,
    outputs: Mapping[str, WrittenOutput],
    metadata: Mapping[Path, str],
    left: Sequence[WrittenOutput],
) -> str:
    """Write all of a record but what was set aside and left out, which is written during the run.

    All but ``run.json`` is the same from run to run and from machine to machine. Returns the seal.

    Parameters
    ----------
    final
        Where the record will lie; paths inside are relative to it.
    outputs
        The outputs, by the names that the run has for them.
    metadata
        The hashes of what lies beside the outputs and describes them, by place.
    left
        Outputs of earlier runs that were changed since, and stay where they are.
    """
    here = partial(relative, folder=final, is_far=about.is_far)
    near, remarks = moved(about.plan, about.remarks, here)
    plan = write_plan(near, remarks).encode()
    (folder / PLAN).write_bytes(plan)
    places = Places(names_of(made), {name: here(one.path) for name, one in outputs.items()})
    for table, entries in made.entries():
        table.write(folder, entries, places, about.guarded)
    write_values(folder, made.values(), [places.source(one.source) for one in made.sources], about.guarded)
    beside = {places.outputs[name]: one.content for name, one in outputs.items()}
    beside |= {here(path): content for path, content in metadata.items()}
    manifest = write_manifest(folder, beside)
    assembled = sum(one.is_assembled for one in made.sources)
    run = RunFile(
        schema=SCHEMA,
        version=__version__,
        python=platform.python_version(),
        platform=f"{sys.platform}-{platform.machine()}",
        pyarrow=pa.__version__,
        numpy=np.__version__,
        started=about.started.isoformat(timespec="seconds"),
        seconds=round((datetime.now(UTC) - about.started).total_seconds(), 3),
        rows=sum(made.rows.values()),
        columns=tuple(TableColumn(each.name, str(each.type)) for each in made.schema.arrow),
        sources={
            "found": len(made.sources),
            "assembled": assembled,
            "set-aside": len(made.sources) - assembled,
        },
        problems={severity: number_of(severity, made.problems) for severity in SEVERITIES},
        lost=made.lost,
        tracebacks=made.tracebacks,
        outputs=tuple(
            OutputFile(places.outputs[name], one.rows, one.bytes, one.content, one.modified)
            for name, one in outputs.items()
        ),
        to=here(about.to) + "/" * about.in_files if about.to else "",
        plan_file=here(about.plan_file) if about.plan_file else "",
        drafted=about.drafted,
        plan_blake3=blake3(plan).hexdigest(),
        code=tuple(CodeFile(_moved(place, here), content) for place, content in about.code),
        guard_formulas=about.guarded,
        common_folder=here(about.base),
        source_files={name: FileState(*state) for name, state in about.states.items()},
        files=tuple(listed_in(folder)),
        manifest_blake3=manifest,
        left=tuple(
            OutputFile(here(one.path), one.rows, one.bytes, one.content, one.modified) for one in left
        ),
    )

    def named(seal: str) -> str:
        text = methods_of(made, about.plan, run, seal, [one.path.name for one in outputs.values()])
        (folder / METHODS).write_text(text, encoding="utf-8", errors="backslashreplace", newline="\n")
        return hash_of(folder / METHODS)

    return run.write(folder, named)


def _moved(place: str, here: Callable[[str], str]) -> str:
    path, _, name = place.rpartition(":")
    return f"{here(path)}:{name}"


def relative(path: Path | str, folder: Path, is_far: bool) -> str:
    """A place as a record in a folder names it; one on this machine absolute, where the record goes to a remote place."""
    if is_far and not is_remote(path) and folder.parent not in Path(path).parents:
        return Path(path).as_posix()
    try:
        return below(folder, path if isinstance(path, str) else str(path))
    except ValueError:  # another drive
        return Path(path).as_posix()


def metadata_about(file: str, made: RunResult, plan: Plan, guarded: bool) -> str:
    """The text of the metadata of a table in CSV."""
    entries = {one.column: one for one in made.columns}
    about = {one.name: one for one in plan.table_columns}
    columns = []
    for cell, kind in zip(made.schema.arrow, made.schema.types, strict=True):
        said = (cell.metadata or {}).get(b"description", b"").decode()
        entry, column = entries.get(cell.name), about.get(cell.name)
        if entry is None:  # provenance
            columns.append(Described(cell.name, kind, "", said))
            continue
        # what is behind a time with a zone is not in its spelling
        spelling = column.spelling if column and not column.zone else ""
        codes = column.missing if column else ()
        zone = bool(getattr(cell.type, "tz", None))
        columns.append(Described(entry.column, kind, entry.unit, said, spelling, codes, zone))
    rows = sum(made.rows.values())
    filled = {one.column for one in made.columns if one.filled == rows}
    keys = [one.columns for one in made.checks if one.kind == "unique" and one.has_passed]
    key = next((key for key in keys if filled.issuperset(key)), ())
    of = plan.dataset
    people = ", ".join(one.name for one in of.persons)
    whole = {"title": of.title, "description": of.description, "rights": of.license, "contributor": people}
    return metadata_of(file, columns, key, guarded, whole)
