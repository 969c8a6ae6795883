"""What the calls share: where to look, the sources that are there, the workers, functions of the analyst's own."""

from __future__ import annotations

import importlib.util
import logging
import os
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager, suppress
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeGuard

from blake3 import blake3

from integrum.errors import PlanError
from integrum.plan.dataset import check_place, place_of
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.plan.rules import Provenance, Rules
from integrum.plan.sources import Sources
from integrum.plan.validating import as_text, expected
from integrum.record.hashing import hash_of
from integrum.remote.addresses import is_remote
from integrum.sources.find import Found, find_sources
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.sources.suffixes import is_delimited, only_other
from integrum.workers.pool import WORKERS, threads
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.results.read import Record

_log = logging.getLogger(__name__)

Where = str | os.PathLike[str] | Sources
# whether functions that a plan names may be run: those beside the plan, or also those below a folder
AllowCode = bool | str | os.PathLike[str]


@dataclass(frozen=True)
class Choice:
    """What a call says of its sources besides where they are; each as in `Sources`."""

    ids: str | Sequence[str] = ""
    sheets: str | Sequence[str] = ()
    exclude: str | Sequence[str] = ()
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None
    access: Mapping[str, str | int | float | bool] | None = None

    @property
    def names(self) -> list[str]:
        """The arguments that say something."""
        return [each.name for each in fields(self) if getattr(self, each.name) not in ("", (), [], None, {})]

    def refused_with(self, what: str) -> None:
        """Raise an error when it says anything, as the plan says it already."""
        if self.names:
            raise PlanError(
                f"{', '.join(self.names)}: for folders and files; with a plan, set them in {what}"
            )


NO_CHOICE = Choice()


def groups_of(where: Where | Sequence[Where], choice: Choice = NO_CHOICE) -> list[Sources]:
    """Places as groups of sources: plain ones together, then those that say more.

    Raises PlanError when it is something else, or a number of sources is expected of several groups.

    Parameters
    ----------
    where
        Folders, patterns, files and `Sources`; one or a list.
    choice
        What else is said of them; a group that says a thing itself keeps it.

    Examples
    --------
    >>> groups_of(["loggers", Sources("visits", ids="{year}.csv")], Choice(exclude="*_old.csv"))[1].ids
    '{year}.csv'
    """
    places = [where] if isinstance(where, (str, os.PathLike, Sources)) else where
    if not isinstance(places, (list, tuple, set, frozenset, Iterator)):
        raise PlanError(expected(_WHERE, places), "where")
    places = list(places)
    for place in places:
        if not isinstance(place, (str, os.PathLike, Sources)):
            raise PlanError(expected(_WHERE, place), "where")
    plain = [_with_suffix(os.fspath(place)) for place in places if not isinstance(place, Sources)]
    groups = ([Sources(plain)] if plain else []) + [place for place in places if isinstance(place, Sources)]
    if choice.expect is not None and len(groups) > 1:
        raise PlanError(
            "with several groups of sources, give each its own: Sources(..., expect=...)", "expect"
        )
    return [
        replace(
            group,
            ids=group.ids or as_text(choice.ids),
            sheets=group.sheets or choice.sheets,
            exclude=group.exclude or choice.exclude,
            expect=choice.expect if group.expect is None else group.expect,
            access=group.access or (choice.access or {}),
        )
        for group in groups
    ]


def _with_suffix(place: str) -> str:
    """A folder, or a pattern for its tables where none of them has one of the usual suffixes."""
    if is_remote(place) or not os.path.isdir(place):
        return place
    suffix = only_other(place)
    return f"{Path(place).as_posix()}/**/*{suffix}" if suffix else place


_WHERE = "folders, patterns, files, Sources, a Plan, or a plan file (.toml)"


def looked_at(where: Plan | Where | Sequence[Where], choice: Choice = NO_CHOICE) -> tuple[Plan, Path]:
    """The plan to look at, and the folder that its paths are relative to."""
    if isinstance(where, Plan):
        choice.refused_with("Sources")
        return where, Path.cwd()
    if is_plan_file(where):
        choice.refused_with(os.path.basename(where))
        return read_plan(os.fspath(where)), Path(os.path.abspath(where)).parent
    groups = groups_of(where, choice)
    return Plan(groups, provenance=Provenance(False, False, False), rules=Rules("keep")), Path.cwd()


def is_plan_file(what: object) -> TypeGuard[str | os.PathLike[str]]:
    """Whether something is the path of a plan file."""
    return isinstance(what, (str, os.PathLike)) and os.fspath(what).lower().endswith(".toml")


def found_for(
    plan: Plan,
    folder: Path,
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None = None,
    headers: Collection[str] = (),
    contents: bool = True,
    known: Mapping[tuple[object, ...], Any] | None = None,
) -> Found:
    """Find the sources of a plan, with workbooks unfolded. Swaps of killed runs are settled first."""
    found = find_sources(plan.sources, folder, own)
    _log.info("found: %s files in %s", f"{len(found.sources):,}", found.base)
    if found.unfinished:
        from integrum.publish.swap import settle_in

        for each in found.unfinished:
            settle_in(each)
        found = find_sources(plan.sources, folder, own)
    if all(is_delimited(source.name) for source in found.sources):
        return found
    from integrum.sources.sheets import unfold

    return unfold(found, plan.sources, pool, contents, headers, scratch.folder, watch, known)


@contextmanager
def workers(executor: Executor | None, what: object = None) -> Iterator[Executor]:
    """The executor that was given, or threads for this call alone.

    Parameters
    ----------
    executor
        Where the work shall be done, if that was said.
    what
        What the call is about: for remote places there are more threads, as most of them wait for an answer.
    """
    if executor is not None:
        yield executor
        return
    with threads(WORKERS * (_WAITING if _is_far(what) else 1)) as pool:
        yield pool


_WAITING = 4


def _is_far(what: object) -> bool:
    """Whether sources are in remote places."""
    if isinstance(what, Plan):
        return any(map(_is_far, what.sources))
    if isinstance(what, Sources):
        return any(map(is_remote, what.find))
    if is_plan_file(what):
        with suppress(OSError):
            return "://" in Path(what).read_text("utf-8", "replace")
        return False
    return any(map(_is_far, what)) if isinstance(what, (list, tuple)) else is_remote(what)


class FileFunction:
    """A function in a file. Workers in other processes load it again.

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
