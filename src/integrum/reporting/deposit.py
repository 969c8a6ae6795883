"""Put a table and all that documents it into a folder that can be handed on, or into a zip of it."""

from __future__ import annotations

import os
import shutil
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath

from integrum.errors import OutputError
from integrum.measures.measures import FILES
from integrum.measures.measures import SOURCES as SOURCES_TABLE
from integrum.plan.dataset import check_place, place_of
from integrum.plan.plan import Plan
from integrum.plan.python import plan_as_python
from integrum.plan.toml import moved, write_plan
from integrum.problems.problem import near
from integrum.publish.places import record_with
from integrum.remote.addresses import is_remote
from integrum.reporting.bag import INFO, PAYLOAD, checksum, info_of, is_bag, write_bag
from integrum.reporting.crate import METADATA, Crate, Held, about_file
from integrum.results.read import Record
from integrum.sources.own import UNFINISHED, metadata_place
from integrum.sources.patterns import looked_in
from integrum.sources.source import Source
from integrum.version import __version__
from integrum.writing.output import PARQUET, suffix_of

SOURCES, CODE, LISTS = "sources", "code", "lists"
ZIP = ".zip"
TABLE, PLAN_FILE, SCRIPT, README = "table", "plan.toml", "make_table.py", "README.md"
# the label of ``bag-info.txt`` by which a deposit is known: where the record is
RECORD = "Integrum-Record"


@dataclass(frozen=True)
class Relocated:
    """A plan as it stands in a folder that is handed on."""

    plan: Plan  # its places are relative to that folder
    base: Path  # what stands on this machine where ``sources`` stands there
    others: Mapping[str, Path]  # code and lists, by their paths there


def relocated(plan: Plan) -> Relocated:
    """Write the places of a plan as they are in a folder that is handed on.

    Sources keep their places among each other, so that they have the same names there.

    `plan`: its paths are absolute.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> made = relocated(Plan([Sources(["/lakes/loggers/**/*.csv", "/lakes/visits/a.csv"])]))
    >>> made.plan.sources[0].find, made.base.as_posix()
    (('sources/loggers/**/*.csv', 'sources/visits/a.csv'), '/lakes')
    """
    places = [each for group in plan.sources for each in group.find if not is_remote(each)]
    base = _common([looked_in(each)[0] for each in places])
    code = [
        check_place(one.read if isinstance(one.read, str) else place_of(one.read))[0]
        for one in plan.columns
        if one.read is not None
    ]
    lists = [check.listed for check in plan.checks if check.listed]
    there = {**_named(lists, LISTS), **_named(code, CODE)}

    def place(each: str) -> str:
        if each in there:
            return there[each]
        if is_remote(each):
            return each
        below = Path(os.path.relpath(each, base)).as_posix()
        return SOURCES if below == "." else f"{SOURCES}/{below}"

    others = {new: Path(old) for old, new in there.items() if os.path.isfile(old)}
    return Relocated(moved(plan, {}, place)[0], base, others)


def searched_above(plan: Plan, folder: Path) -> str:
    """A folder in which the plan looks for sources down to a folder; empty when there is none.

    `plan`: its paths are absolute.
    """
    for place in (each for group in plan.sources for each in group.find if not is_remote(each)):
        top, is_deep = looked_in(place)
        if is_deep and Path(top) in folder.parents:
            return top
    return ""


def _common(folders: Iterable[str]) -> Path:
    some = [os.path.abspath(each) for each in folders]
    return Path(os.path.commonpath(some)) if some else Path(os.path.abspath(os.sep))


def _named(files: Iterable[str], folder: str) -> dict[str, str]:
    """Files by their names in a folder; one of a name that is taken has a number."""
    found: dict[str, str] = {}
    for each in dict.fromkeys(files):
        name, number = os.path.basename(each), 1
        while f"{folder}/{name}" in found.values():
            number += 1
            stem, suffix = os.path.splitext(os.path.basename(each))
            name = f"{stem}_{number}{suffix}"
        found[each] = f"{folder}/{name}"
    return found


@dataclass(frozen=True)
class Deposit:
    """What goes into a folder that is handed on.

    Parameters
    ----------
    record
        The record; it and its tables are as the run left them.
    plan
        The plan as it stands there.
    sources
        The sources that go with it, in order; None where they are not wanted.
    """

    record: Record
    plan: Relocated
    sources: Sequence[Source] | None

    def write(self, place: Path, replace: bool = False) -> Path:
        """Write the folder, or the zip, in one step.

        Raises OutputError when it cannot be written, or something is in its place.

        `replace`: whether a deposit that is there may be written over.
        """
        _check(place, replace)
        new = place.with_name(f".{place.name}{UNFINISHED}{os.getpid()}-{os.urandom(3).hex()}")
        name = place.name.removesuffix(ZIP) if place.suffix.lower() == ZIP else place.name
        folder = new / name if place.suffix.lower() == ZIP else new
        try:
            (folder / PAYLOAD).mkdir(parents=True)
            self._fill(folder)
            if place.suffix.lower() == ZIP:
                packed = new / "packed"
                _pack(folder, packed)
                packed.replace(place)
            else:
                _put(folder, place)
        except OSError as error:
            raise OutputError(f"cannot write {near(place)}: {error.strerror or error}") from error
        finally:
            shutil.rmtree(new, ignore_errors=True)
        return place

    def _fill(self, folder: Path) -> None:
        payload, record = folder / PAYLOAD, self.record
        top = Path(os.path.commonpath([record.folder.parent, *(one.path.parent for one in record.outputs)]))
        tables: list[Held] = []
        for one in record.outputs:
            there = f"{TABLE}/{one.path.relative_to(top).as_posix()}"
            tables += _copied(one.path, payload, there, "the table", one.content)
            beside = metadata_place(one.path)
            if beside.is_file():
                tables += _copied(
                    beside,
                    payload,
                    f"{TABLE}/{beside.relative_to(top).as_posix()}",
                    "the columns of the table, as CSV on the Web has them",
                )
        record_there = f"{TABLE}/{record.folder.relative_to(top).as_posix()}"
        # what somebody has put beside them is not for others
        files = [path for name in sorted(FILES) if (path := record.folder / name).is_file()]
        kept = [
            each
            for path in files
            for each in _copied(path, payload, f"{record_there}/{path.name}", about_file(path.name))
        ]
        others = [
            each
            for there, path in self.plan.others.items()
            for each in _copied(path, payload, there, "code or a list that the plan names")
        ]
        held, absent = self._sources(payload)
        first = record.outputs[0].path
        suffix = PARQUET if first.is_dir() else suffix_of(first)
        # what opens as a whole: the one table, or the record of several, or one that is not beside its table
        alone = len(record.outputs) == 1 and record_with(first) == record.folder
        whole = f"{TABLE}/{first.relative_to(top).as_posix()}" if alone else record_there
        plan = self.plan.plan
        _text(payload / PLAN_FILE, write_plan(plan))
        _text(payload / SCRIPT, plan_as_python(plan, table=f"again{suffix}"))
        names = ", ".join(one.path.name for one in record.outputs[:3])
        title = plan.dataset.title or names
        shown = [
            *((one.path, one.about) for one in tables),
            (record_there, "the record of the run: the sources with their hashes, all problems, all rows that are not "
             "in the table, the codebook, and a page to look at: report.html"),
            (PLAN_FILE, "the plan, with the places that the sources have here"),
            (SCRIPT, "the same plan in Python"),
            *((one.path, one.about) for one in others),
            *([(SOURCES, f"the files that the table was made of: {len(held):,}")] if held else []),
        ]  # fmt: skip
        readme = {
            "title": title,
            "description": plan.dataset.description,
            "people": [one.name for one in plan.dataset.persons],
            "license": plan.dataset.license,
            "methods": record.methods.split("\n\n"),
            "files": shown,
            "seal": record.seal,
            "suffix": suffix,
            "table": whole,
            "codebook": f"{record_there}/codebook.md",
            "listed": f"{record_there}/{SOURCES_TABLE.file}",
            "has_sources": bool(held),
            "has_code": bool(record.run.code),
            "far": any(is_remote(each) for group in plan.sources for each in group.find),
        }
        from integrum.pages.page import drawn

        _text(payload / README, drawn("deposit.md.jinja", page=readme) + "\n")
        made = [(SCRIPT, "the plan in Python"), (README, "what is in this folder, and how to check it")]
        crate = Crate(
            plan.dataset,
            title,
            record.run,
            record.methods.strip(),
            record.codebook,
            tables,
            kept,
            _held(payload, PLAN_FILE, "the plan, with the places that the sources have here"),
            [*(_held(payload, name, about) for name, about in made), *others],
            held,
            absent,
        )
        _text(payload / METADATA, crate.text())
        people = plan.dataset.persons
        write_bag(
            folder,
            {
                "Bag-Software-Agent": f"Integrum {__version__}",
                "Bagging-Date": datetime.now(UTC).date().isoformat(),
                "Contact-Name": people[0].name if people else "",
                "External-Description": title,
                RECORD: f"{PAYLOAD}/{record_there}",
            },
        )

    def _sources(self, payload: Path) -> tuple[list[Held], list[tuple[str, int, str]]]:
        """The sources that go with it, file by file; and what is said of those that do not."""
        said = self.record.sources
        if self.sources is None:
            return [], [(one.source, one.size, one.content) for one in said]
        contents = {one.source: one.content for one in said}
        held: dict[str, Held] = {}
        far = []
        for source in self.sources:
            if source.remote is not None:
                far.append((source.name, source.size, contents.get(source.name, "")))
                continue
            below = Path(os.path.relpath(source.path, self.plan.base)).as_posix()
            there = f"{SOURCES}/{below}"
            if there not in held:
                is_plain = source.sheet is None and not source.packing
                content = contents.get(source.name, "") if is_plain else ""
                (held[there],) = _copied(Path(source.path), payload, there, "a source of the table", content)
        return list(held.values()), far


def _copied(path: Path, payload: Path, there: str, about: str, blake3: str = "") -> Iterator[Held]:
    """Copy a file, or the files of a folder, with their times."""
    if path.is_dir():
        for each in sorted(path.iterdir()):
            yield from _copied(each, payload, f"{there}/{each.name}", about)
        return
    place = payload / there
    place.parent.mkdir(parents=True, exist_ok=True)
    shutil.copy2(path, place)
    yield _held(payload, there, about, blake3)


def _held(payload: Path, there: str, about: str, blake3: str = "") -> Held:
    place = payload / there
    return Held(there, place.stat().st_size, checksum(place), about, blake3)


def _text(place: Path, text: str) -> None:
    place.write_text(text, encoding="utf-8", newline="\n")


def _check(place: Path, replace: bool) -> None:
    """Refuse a place where something is that is not to be written over."""
    if not os.path.lexists(place) or (place.is_dir() and not any(place.iterdir())):
        return
    if not (replace and is_deposit(place)):
        how = "add --replace (in Python replace=True) to write over it, or " if is_deposit(place) else ""
        raise OutputError(f"{near(place)} exists; {how}give another name")


def _put(folder: Path, place: Path) -> None:
    """Put a folder into its place; a deposit that is there goes when the new one is there."""
    old = folder.with_name(f"{folder.name}-old")
    if place.exists():
        place.replace(old)
    try:
        folder.replace(place)
    except OSError:
        if old.exists():
            old.replace(place)
        raise
    shutil.rmtree(old, ignore_errors=True)


def _pack(folder: Path, place: Path) -> None:
    """Pack a folder; its name is the one folder in the zip, as BagIt wants it."""
    with zipfile.ZipFile(place, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as packed:
        for path in sorted(folder.rglob("*")):
            if path.is_file():
                packed.write(path, PurePosixPath(folder.name, path.relative_to(folder).as_posix()).as_posix())


def is_deposit(place: Path) -> bool:
    """Whether a folder or a zip is one that Integrum made.

    Examples
    --------
    >>> is_deposit(Path("no-such-folder"))
    False
    """
    if place.is_dir():
        return is_bag(place) and RECORD in info_of(place)
    with suppress(OSError, zipfile.BadZipFile), zipfile.ZipFile(place) as packed:
        inside = next(
            (name for name in packed.namelist() if name.count("/") == 1 and name.endswith(f"/{INFO}")), ""
        )
        return bool(inside) and f"\n{RECORD}: ".encode() in packed.read(inside)
    return False


def unpacked(place: Path, folder: Path) -> Path:
    """Unpack a zip into a folder; gives the deposit.

    Raises OutputError when it is damaged.
    """
    try:
        with zipfile.ZipFile(place) as packed:
            packed.extractall(folder)
            name = next(each.split("/")[0] for each in packed.namelist())
    except (OSError, zipfile.BadZipFile, StopIteration, ValueError, RuntimeError) as error:
        raise OutputError(f"{near(place)} cannot be unpacked: {error}") from error
    return folder / name


def record_in(deposit: Path) -> Path:
    """The folder of the record in a deposit.

    Raises OutputError when it is not in it.
    """
    place = (deposit / info_of(deposit).get(RECORD, "")).resolve()
    if deposit.resolve() not in place.parents or not place.is_dir():
        raise OutputError(f"{near(deposit)}: the record is not in it, or {INFO} does not say where")
    return place
