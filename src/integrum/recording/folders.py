"""Tables that are folders of Parquet files: what may stand in their places, and what is to be said of them."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from pathlib import Path

from integrum.errors import OutputError
from integrum.problems import Problem, clipped
from integrum.sources.own import PART
from integrum.writing.output import PARQUET, suffix_of
from integrum.writing.parquet_folder import named_in


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
