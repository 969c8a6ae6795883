"""Where the record of a table lies, and what is to be said about its name and its folders."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Sequence
from pathlib import Path

from integrum.errors import OutputError
from integrum.problems.problem import Problem, clipped, near
from integrum.record.run_file import asked_for, is_record, outputs_of
from integrum.sources.own import PART
from integrum.writing.output import PARQUET, stem_of, suffix_of
from integrum.writing.parquet_folder import named_in

_NAME = re.compile(r"[{}]")
# a record for several outputs lies at most this many folders above each
_LEVELS = 4


def about_folders(places: Sequence[Path]) -> list[Problem]:
    """Say which names of folders a reader would take for another value, as it takes digits for a number.

    Examples
    --------
    >>> print(about_folders([Path("lakes.parquet/site=007"), Path("lakes.parquet/site=12")])[0].message)
    folders such as "site=007" are read as numbers unless the reader is told that they are text
    """
    read_so = [
        f"{name}={value}"
        for place in places
        for name, value in named_in(place)
        if value and len(value) > 1 and value.isdecimal() and value.startswith("0")
    ]
    if not read_so:
        return []
    return [
        Problem.of(
            "folder-as-number",
            message=f'folders such as "{read_so[0]}" are read as numbers unless the reader is told that they are text',
            hint="give the reader the type of the column, or divide the table by another identifier",
        )
    ]


def check_folder(place: Path) -> None:
    """Refuse a place for a folder of Parquet files that is something else."""
    if os.path.isfile(place):
        raise OutputError(f"{place} is a file; move it away to have a folder of that name")
    if os.path.isdir(place):
        foreign = next((name for name in os.listdir(place) if not name.startswith((".", "part-"))), "")
        if foreign:
            raise OutputError(
                f"{place} has other things in it ({clipped(foreign)}); give another folder, or move them away"
            )


def others_beside(places: Iterable[Path]) -> list[Path]:
    """Folders with files of a table below the same folder ``.parquet`` as some places, and that are none of these."""
    places = set(places)
    roots = {root for place in places for root in place.parents if suffix_of(root) == PARQUET}
    there = {
        path.parent for root in roots for path in root.rglob(f"{PART}*") if not _is_hidden(path.parent, root)
    }
    return sorted(there - places)


def _is_hidden(path: Path, root: Path) -> bool:
    return any(part.startswith(".") for part in path.relative_to(root).parts)


def record_of(output: Path) -> Path:
    """The folder of the record that an output has: ``lakes-record`` beside ``lakes.csv``.

    A record belongs to one output. Where ``lakes-record`` is that of ``lakes.csv``, the one of ``lakes.parquet`` is
    ``lakes.parquet-record``.

    Examples
    --------
    >>> record_of(Path("out/lakes.csv")).name
    'lakes-record'
    """
    plain, exact = (output.with_name(f"{name}-record") for name in (stem_of(output), output.name))
    if owners_of(exact) == [output] or not all(is_of(owner, output) for owner in owners_of(plain)):
        return exact
    return plain


def is_of(path: Path, output: Path) -> bool:
    """Whether a path is an output, or lies in one that is a folder."""
    return path == output or output in path.parents


def record_with(output: Path) -> Path:
    """The folder of the record that tells of an output: the usual one, or one for outputs named after identifiers."""
    usual = record_of(output)
    if is_record(usual):
        return usual
    for parent in list(output.parents)[:_LEVELS]:
        for folder in sorted(parent.glob("*-record")):
            if any(is_of(Path(path), output) for path in outputs_of(folder)):
                return folder
    return usual


def record_of_folders(template: str) -> Path:
    """The folder of the record of a table in folders of Parquet files: beside the first folder ``.parquet``.

    Examples
    --------
    >>> record_of_folders("out/lakes.parquet/lake={lake}").as_posix()
    'out/lakes-record'
    """
    path = Path(template)
    root = next(each for each in (*reversed(path.parents), path) if suffix_of(each) == PARQUET)
    return record_of_many(str(root)) if "{" in str(root) else record_of(root)


def record_of_many(template: str) -> Path:
    """The folder of the record of outputs that are named after identifiers: one for all of them.

    Examples
    --------
    >>> record_of_many("out/{lake}/{month}_tidy.csv").as_posix()
    'out/lake-month_tidy-record'
    """
    parts = Path(template).parts
    first = next(at for at, part in enumerate(parts) if "{" in part)
    names = [_NAME.sub("", part) for part in (*parts[first:-1], stem_of(Path(parts[-1])))]
    return Path(*parts[:first], "-".join(names) + "-record")


def owners_of(record: Path) -> list[Path]:
    """The outputs that a record belongs to and that are there."""
    return [Path(path) for path in outputs_of(record) if os.path.exists(path)]


def check_owner(record: Path, outputs: Sequence[Path], asked: Path | None = None) -> None:
    """Refuse a record that was named by `--record` and belongs to another output.

    Raises OutputError: naming the other output.
    """
    if asked and asked_for(record) == str(asked):
        return
    others = [path for path in owners_of(record) if path not in outputs]
    if others:
        raise OutputError(
            f"{record} is the record of {near(others[0])}, which still exists; name another folder for the "
            "record"
        )


def about_name(output: Path, record: Path) -> list[Problem]:
    """Say when a record does not have the name that it usually has."""
    usual = output.with_name(f"{stem_of(output)}-record")
    if record == usual or record.name != f"{output.name}-record":
        return []
    return [
        Problem.of(
            "record-elsewhere",
            message=f"{usual.name} is the record of another output; the one of {output.name} is {record.name}",
        )
    ]
