"""A plan file as a Python script."""

from __future__ import annotations

import os
from pathlib import Path

from integrum.errors import OutputError
from integrum.plan.from_toml import read_plan
from integrum.plan.python import plan_as_python, script_name
from integrum.plan.toml import moved
from integrum.problems import near
from integrum.remote.addresses import is_remote


def script(
    plan: str | os.PathLike[str], to: str | os.PathLike[str] | None = None, *, replace: bool = False
) -> str:
    """Write a plan file as a short Python script that assembles the same table, its comments kept.

    Parameters
    ----------
    plan
        A plan file (``.toml``).
    to
        The script to write; None: only give its text. The paths in it are relative to its folder.
    replace
        Whether to write over a file that is there.

    Returns
    -------
    str
        The text of the script. It is run as ``python make_table.py [TABLE]``, and gives the same bytes as the plan.

    Raises
    ------
    PlanError
        When the plan is wrong.
    OutputError
        When the script cannot be written, or is there already.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> text = 'integrum = 1\\n[[sources]]\\nfind = "loggers"\\n# in metres\\n[[columns]]\\nname = "depth"\\n'
    >>> _ = (folder / "lakes.toml").write_text(text)
    >>> script(folder / "lakes.toml", folder / "make_table.py").splitlines()[0].strip('"')
    'Assemble one table from many files: the plan lakes.toml as a script.'
    >>> (folder / "make_table.py").read_text().count("# in metres")
    1
    """
    found = read_plan(os.fspath(plan))
    text = Path(plan).read_bytes().decode("utf-8-sig")
    folder = Path(os.path.abspath(plan)).parent
    if to is not None:
        place = Path(os.path.abspath(to))
        if place.exists() and not replace:
            raise OutputError(f"{near(place)} already exists; give another name, or replace=True (--replace)")
        if place.parent != folder:
            found, _ = moved(found, {}, lambda each: _from(place.parent, folder, each))
    said = plan_as_python(found, text, script_name(os.fspath(plan)), os.path.basename(plan))
    if to is not None:
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(said, encoding="utf-8")
        except OSError as error:
            raise OutputError(f"cannot write {near(place)}: {error.strerror}") from error
    return said


def _from(here: Path, folder: Path, place: str) -> str:
    """A place of a plan in a folder, as seen from another one."""
    if os.path.isabs(place) or is_remote(place):
        return place
    try:
        return Path(os.path.relpath(os.path.join(folder, place), here)).as_posix()
    except ValueError:  # another drive
        return Path(os.path.abspath(os.path.join(folder, place))).as_posix()
