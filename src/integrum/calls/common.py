"""What the calls share: where to look, the sources that are there, the workers."""

from __future__ import annotations

import logging
import os
from collections.abc import Collection, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeGuard

from integrum.plan.model import Plan
from integrum.plan.rules import Provenance, Rules
from integrum.plan.sources import Sources
from integrum.plan.toml import read_plan
from integrum.sources.find import Found, find_sources
from integrum.sources.own import OwnWork
from integrum.sources.scratch import Scratch
from integrum.sources.suffixes import is_delimited
from integrum.workers import Watch, threads

_log = logging.getLogger(__name__)

Where = str | os.PathLike[str] | Sources


def groups_of(where: Where | Sequence[Where]) -> list[Sources]:
    """Places as groups of sources: plain ones together, then those that say more."""
    places = [where] if isinstance(where, (str, os.PathLike, Sources)) else list(where)
    plain = [os.fspath(place) for place in places if not isinstance(place, Sources)]
    groups = [place for place in places if isinstance(place, Sources)]
    return ([Sources(plain)] if plain else []) + groups


def looked_at(where: Plan | Where | Sequence[Where]) -> tuple[Plan, Path]:
    """The plan to look at, or one that only has sources; and what relative paths are relative to."""
    if isinstance(where, Plan):
        return where, Path.cwd()
    if is_plan_file(where):
        return read_plan(os.fspath(where)), Path(os.path.abspath(where)).parent
    return Plan(groups_of(where), provenance=Provenance(False, False, False), rules=Rules("keep")), Path.cwd()


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
    """The sources of a plan, the sheets of workbooks in their place; what a run left half done is settled first."""
    found = find_sources(plan.sources, folder, own)
    _log.info("found: %s files in %s", f"{len(found.sources):,}", found.base)
    if found.unfinished:
        from integrum.recording.swap import settle_in

        for each in found.unfinished:
            settle_in(each)
        found = find_sources(plan.sources, folder, own)
    if all(is_delimited(source.name) for source in found.sources):
        return found
    from integrum.sources.sheets import unfold

    return unfold(found, plan.sources, pool, contents, headers, scratch.folder, watch, known)


@contextmanager
def workers(executor: Executor | None) -> Iterator[Executor]:
    """The executor that was given, or threads for this call alone."""
    if executor is not None:
        yield executor
        return
    with threads() as pool:
        yield pool
