"""On what a table depends, as a rule that make and other programs read: they run a command only when something is new."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from pathlib import Path

from integrum.errors import OutputError
from integrum.plan.dataset import check_place, place_of
from integrum.plan.plan import Plan
from integrum.problems.problem import near
from integrum.remote.addresses import is_remote
from integrum.results.outcome import Outcome
from integrum.sources.patterns import looked_in

_HEAD = "# written by integrum assemble --depends: on what the table depends, as make reads it\n"
# letters that make takes for something else among what is needed, and in what is made
_NEEDED, _MADE = re.compile(r"[ \t#:*?\[\]|;]"), re.compile(r"[ \t#:*?\[\]%]")
# it would take such a line for a variable
_IS = "integrum_is"


def check_place_of(file: Path) -> None:
    """Refuse to write over a file that is no such rule.

    Raises OutputError.
    """
    if not os.path.lexists(file):
        return
    try:
        is_own = file.read_text(encoding="utf-8", errors="replace").startswith(_HEAD)
    except OSError as error:
        raise OutputError(f"cannot write {near(file)}: {error.strerror or error}") from error
    if not is_own:
        raise OutputError(
            f"{near(file)} exists, and is not a list of dependencies; give another name to --depends"
        )


def write_dependencies(file: Path, outcome: Outcome, plan_file: Path | None) -> None:
    """Write the rule, with paths as seen from the working folder.

    Raises OutputError when it cannot be written.
    """
    outputs = [outcome.output] if outcome.output else [one.output for one in outcome.parts]
    targets = [_seen(str(path)) for path in outputs if path]
    needs = list(dict.fromkeys(map(_seen, _needed(outcome, plan_file))))
    own = {str(path.parent) for path in (*outputs, outcome.record, file) if path} | {str(outcome.record)}
    folders: list[str] = []
    unseen: list[str] = []
    for folder in sorted(_searched(outcome.plan)):
        (unseen if folder in own else folders).append(_seen(folder))
    lines = [_HEAD]
    odd = [path for path in (*targets, *needs, *folders) if "\n" in path]
    lines += ["# a name with a line end in it cannot be listed here\n" for _ in odd]
    lines += [
        f"# a new file in {folder} is not noticed, as the table is written there\n" for folder in unseen
    ]
    far = sum(is_remote(place) for group in outcome.plan.sources for place in group.find)
    lines += [f"# sources at {far:,} remote places are not looked at\n"] if far else []
    everything = [path for path in (*needs, *folders) if path not in odd]
    if any("=" in each for each in (*targets, *everything)):
        lines.append(f"{_IS} := =\n")
    listed = " \\\n  ".join(map(_coded, everything))
    made = " ".join(_coded(each, True) for each in targets)
    lines.append(f"{made}: \\\n  {listed}\n\n")
    # what is gone is no reason to stop; a rule for a name with ; in it cannot be written
    lines += [f"{_coded(each, True)}:\n" for each in everything if ";" not in each]
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        new = file.with_name(f".{file.name}.new")
        new.write_text("".join(lines), encoding="utf-8", newline="\n")
        new.replace(file)
    except OSError as error:
        raise OutputError(f"cannot write {near(file)}: {error.strerror or error}") from error


def _needed(outcome: Outcome, plan_file: Path | None) -> Iterator[str]:
    """The files that the table is made of."""
    if plan_file:
        yield str(plan_file)
    for column in outcome.plan.columns:
        if column.read is not None:
            file = check_place(column.read if isinstance(column.read, str) else place_of(column.read))[0]
            if os.path.exists(file):
                yield file
    yield from (check.listed for check in outcome.plan.checks if check.listed)
    for one in outcome.sources:
        if not is_remote(one.path):
            yield one.path


def _searched(plan: Plan) -> set[str]:
    """The folders that a new source may come into."""
    found: set[str] = set()
    for place in (each for group in plan.sources for each in group.find if not is_remote(each)):
        if os.path.isfile(place):
            continue
        top, is_deep = looked_in(place)
        if os.path.isdir(top):
            found.add(top)
        for folder, below, _ in os.walk(top) if is_deep else ():
            below[:] = [name for name in below if not name.startswith(".") and not name.endswith("-record")]
            found.update(os.path.normpath(os.path.join(folder, name)) for name in below)
    return found


def _seen(path: str) -> str:
    """A path as seen from the working folder."""
    try:
        return Path(os.path.relpath(path)).as_posix()
    except ValueError:  # another drive
        return Path(os.path.abspath(path)).as_posix()


def _coded(path: str, is_made: bool = False) -> str:
    r"""Escape a path for make.

    Examples
    --------
    >>> print(_coded("May 2024/lake=a $1.csv"))
    May\ 2024/lake$(integrum_is)a\ $$1.csv
    """
    signs = _MADE if is_made else _NEEDED
    return signs.sub(lambda found: f"\\{found[0]}", path.replace("$", "$$")).replace("=", f"$({_IS})")
