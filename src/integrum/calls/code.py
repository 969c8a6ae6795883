"""Functions of the analyst's own that a plan names: loaded only when that is allowed."""

from __future__ import annotations

import importlib.util
import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from blake3 import blake3

from integrum.errors import PlanError
from integrum.hashing import hash_of
from integrum.plan.code import check_place, place_of
from integrum.plan.plan import Plan

if TYPE_CHECKING:
    from integrum.recording.read import Record


# whether functions that a plan names may be run: those beside the plan, or also those below a folder
AllowCode = bool | str | os.PathLike[str]


class FileFunction:
    """A function in a file; other workers load it again from there.

    Parameters
    ----------
    place
        The file and the name of the function, such as ``"steps.py:depth"``.
    """

    def __init__(self, place: str) -> None:
        self.place = place
        path, self.__name__ = check_place(place)
        self._function = _loaded(path, self.__name__)

    def __call__(self, text: str) -> str | None:
        """Read a text."""
        return self._function(text)

    def __reduce__(self) -> tuple[type[FileFunction], tuple[str]]:
        return FileFunction, (self.place,)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, FileFunction) and other.place == self.place

    def __hash__(self) -> int:
        return hash(self.place)


def with_code(plan: Plan, allowed: AllowCode, home: Path) -> Plan:
    """The same plan with the functions that it names.

    Raises PlanError when it names one and that is not allowed, it lies elsewhere, or there is no such function.

    Parameters
    ----------
    plan
        A plan; the files that it names are absolute.
    allowed
        Whether functions may be run: those in files beside the plan and below; with a folder also those in that one.
    home
        The folder of the plan.
    """
    homes = [os.path.realpath(home)]
    if not isinstance(allowed, bool):
        homes.append(os.path.realpath(allowed))
    columns = []
    for number, column in enumerate(plan.columns, 1):
        if isinstance(column.read, str):
            place = f'columns[{number}] "{column.name}", key read'
            if not allowed:
                raise PlanError(
                    f"its values are read by a function in {os.path.basename(column.read)}; look at the code first, "
                    "then add --allow-code (in Python: allow_code=True)",
                    place,
                )
            file = os.path.realpath(column.read.rpartition(":")[0])
            if not any(os.path.commonpath([each, file]) == each for each in homes if _may_share(each, file)):
                raise PlanError(
                    f"its values are read by a function in {file}, which is not beside the plan; look at the code first, "
                    "then name its folder: --code-from FOLDER (in Python: allow_code=FOLDER)",
                    place,
                )
            try:
                column = replace(column, read=FileFunction(column.read))
            except PlanError as error:
                raise PlanError(error.message, place) from error
        columns.append(column)
    return replace(plan, columns=columns)


def home_of(record: Record) -> Path:
    """The folder of the plan that a record was made with; without a plan file the one that the record is in."""
    if record.run.plan_file:
        return Path(os.path.normpath(record.folder / record.run.plan_file)).parent
    return record.folder.parent


def _may_share(one: str, other: str) -> bool:
    """Whether two paths can be compared; on some systems those of two drives cannot."""
    return os.path.splitdrive(one)[0] == os.path.splitdrive(other)[0]


def code_of(plan: Plan) -> list[tuple[str, str]]:
    """The functions that a plan has, each with the BLAKE3 hash of its file; an empty one where there is no file."""
    found = []
    for column in plan.columns:
        if column.read is not None:
            place = column.read if isinstance(column.read, str) else place_of(column.read)
            path = Path(check_place(place)[0])
            found.append((place, hash_of(path) if path.is_file() else ""))
    return found


def _loaded(path: str, name: str) -> Callable[[str], str | None]:
    spec = importlib.util.spec_from_file_location(f"_own_{blake3(path.encode()).hexdigest()[:12]}", path)
    if spec is None or spec.loader is None or not os.path.isfile(path):
        raise PlanError(f"file not found: {path}", "read")
    module = importlib.util.module_from_spec(spec)
    try:
        spec.loader.exec_module(module)
    except Exception as error:
        raise PlanError(f"{path} cannot be loaded: {type(error).__name__}: {error}", "read") from error
    function = getattr(module, name, None)
    if not callable(function):
        raise PlanError(f"{path} has no function {name}", "read")
    made: Callable[[str], str | None] = function
    return made
