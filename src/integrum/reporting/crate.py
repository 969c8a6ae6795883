"""What a folder holds, for machines: a research object crate, with the run as an action and its provenance.

Sources: *RO-Crate Metadata Specification* 1.3; *Process Run Crate* 0.5, its profile for runs of one tool; *PROV-O: The PROV
Ontology*, W3C Recommendation of 30 April 2013.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from mimetypes import MimeTypes
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import quote

from integrum.measures.tables import METHODS, PLAN
from integrum.plan.dataset import Dataset
from integrum.publish.codebook import CodebookColumn
from integrum.record.run_file import NAME, RunFile

METADATA = "ro-crate-metadata.json"
_SPECIFICATION = "https://w3id.org/ro/crate/1.3"
_PROFILE = "https://w3id.org/ro/wfrun/process/0.5"
_PROV = "http://www.w3.org/ns/prov#"
_LICENSE = {
    "name": "no license",
    "description": "The plan names no license. Ask the authors before you use the data.",
}
_FORMATS = {
    ".csv": "text/csv",
    ".gz": "application/gzip",
    ".parquet": "application/vnd.apache.parquet",
    ".arrow": "application/vnd.apache.arrow.file",
    ".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ".sqlite": "application/vnd.sqlite3",
    ".json": "application/json",
    ".toml": "application/toml",
    ".py": "text/x-python",
    ".md": "text/markdown",
    ".html": "text/html",
    ".txt": "text/plain",
    ".ods": "application/vnd.oasis.opendocument.spreadsheet",
}
# the types that Python knows of itself, not those of a machine
_KNOWN, _BYTES = MimeTypes(), "application/octet-stream"
Entity = dict[str, Any]


@dataclass(frozen=True)
class Held:
    """A file of the folder: its path there, its size, its SHA-256, and what it is."""

    path: str
    size: int
    sha256: str
    about: str
    blake3: str = ""


@dataclass(frozen=True)
class Crate:
    """What is said of a run in its crate."""

    dataset: Dataset
    title: str
    run: RunFile
    methods: str
    columns: Sequence[CodebookColumn]
    tables: Sequence[Held]
    record: Sequence[Held]
    plan: Held
    others: Sequence[Held]  # the script, code and so on
    sources: Sequence[Held]  # those that are in the folder
    # those that are not: their names, sizes and BLAKE3 hashes
    absent: Sequence[tuple[str, int, str]]

    @property
    def _tool(self) -> str:
        """The version of Integrum that made the table, as a package URL (ECMA-427)."""
        return f"pkg:pypi/integrum@{self.run.version}"

    def text(self) -> str:
        """The text of the metadata."""
        graph = [
            *self._heads(),
            *self._files(),
            *self._absent(),
            *self._people(),
            *self._columns(),
            *self._software(),
        ]
        context = [f"{_SPECIFICATION}/context", {"prov": _PROV}]
        return json.dumps({"@context": context, "@graph": graph}, indent=2, ensure_ascii=False) + "\n"

    def _heads(self) -> Iterator[Entity]:
        yield {
            "@id": METADATA,
            "@type": "CreativeWork",
            "about": {"@id": "./"},
            "conformsTo": {"@id": _SPECIFICATION},
        }
        held = [*self.tables, *self.record, self.plan, *self.others, *self.sources]
        license_id, license_entity = self._license()
        people = _ids([entity for entity in self._people() if entity["@type"] == "Person"])
        yield {
            "@id": "./",
            "@type": "Dataset",
            "name": self.title,
            "description": self.dataset.description or self.methods.split("\n")[0],
            "datePublished": self.run.started[:10],
            "license": {"@id": license_id},
            **({"author": _plain(people)} if people else {}),
            "conformsTo": {"@id": _PROFILE},
            "hasPart": _plain([{"@id": _id(one.path)} for one in held]),
            "mainEntity": {"@id": _id(self.tables[0].path)},
            "mentions": {"@id": "#run"},
            "variableMeasured": _plain([{"@id": f"#column-{at}"} for at in range(1, len(self.columns) + 1)]),
        }
        yield license_entity
        yield {
            "@id": _PROFILE,
            "@type": ["CreativeWork", "Profile"],
            "name": "Process Run Crate",
            "version": PurePosixPath(_PROFILE).name,
        }
        inputs = [*_ids(map(_named, self.sources)), *_ids(self._absent_ones()), {"@id": _id(self.plan.path)}]
        results = [{"@id": _id(one.path)} for one in (*self.tables, *self.record)]
        end = _later(self.run.started, self.run.seconds)
        yield {
            "@id": "#run",
            "@type": ["CreateAction", "prov:Activity"],
            "name": f"Assemble {', '.join(PurePosixPath(one.path).name for one in self.tables[:3])}",
            "description": self.methods,
            "startTime": self.run.started,
            "endTime": end,
            "actionStatus": "http://schema.org/CompletedActionStatus",
            "instrument": {"@id": self._tool},
            **({"agent": people[0]} if people else {}),
            "object": _plain(inputs),
            "result": _plain(results),
            "prov:used": _plain(inputs),
            "prov:wasAssociatedWith": {"@id": self._tool},
            "prov:startedAtTime": {
                "@type": "http://www.w3.org/2001/XMLSchema#dateTime",
                "@value": self.run.started,
            },
            "prov:endedAtTime": {"@type": "http://www.w3.org/2001/XMLSchema#dateTime", "@value": end},
        }

    def _files(self) -> Iterator[Entity]:
        derived = [*_ids(map(_named, self.sources)), *_ids(self._absent_ones())]
        made = {one.path for one in (*self.tables, *self.record)}
        tables = {one.path for one in self.tables}
        for one in (*self.tables, *self.record, self.plan, *self.others, *self.sources):
            entity = _file(one)
            if one.path in made:
                entity["prov:wasGeneratedBy"] = {"@id": "#run"}
            if one.path in tables:
                entity["prov:wasDerivedFrom"] = _plain(derived)
            about = one.path.removesuffix("-metadata.json")
            if about != one.path and about in tables:  # as CSV on the Web has it
                entity["about"] = {"@id": _id(about)}
            yield entity
            if one.blake3:
                yield _hash(one.path, one.blake3)

    def _absent_ones(self) -> Iterator[Entity]:
        for number, (name, size, blake3) in enumerate(self.absent, 1):
            yield {
                "@id": f"#source-{number}",
                "@type": "CreativeWork",
                "name": name,
                "description": "a source of the table, which is not in this folder",
                "size": f"{size} bytes",
                **({"identifier": {"@id": f"#blake3-source-{number}"}} if blake3 else {}),
            }

    def _absent(self) -> Iterator[Entity]:
        for entity, (_, _, blake3) in zip(self._absent_ones(), self.absent, strict=True):
            yield entity
            if blake3:
                yield _hash(entity["@id"].removeprefix("#"), blake3)

    def _license(self) -> tuple[str, Entity]:
        said = self.dataset.license
        if said.startswith(("http://", "https://")):
            return said, {
                "@id": said,
                "@type": "CreativeWork",
                "name": said,
                "description": f"The license {said}",
            }
        named = {"name": said, "description": said} if said else _LICENSE
        return "#license", {"@id": "#license", "@type": "CreativeWork", **named}

    def _people(self) -> Iterator[Entity]:
        places: dict[str, str] = {}
        for number, one in enumerate(self.dataset.persons, 1):
            at = {}
            if one.affiliation:
                place = places.setdefault(one.affiliation, f"#organization-{len(places) + 1}")
                at = {"affiliation": {"@id": place}}
            yield {"@id": one.id or f"#person-{number}", "@type": "Person", "name": one.name, **at}
        for name, place in places.items():
            yield {"@id": place, "@type": "Organization", "name": name}

    def _columns(self) -> Iterator[Entity]:
        for number, one in enumerate(self.columns, 1):
            yield {
                "@id": f"#column-{number}",
                "@type": "PropertyValue",
                "name": one.name,
                **({"description": one.description} if one.description else {}),
                **({"unitText": one.unit} if one.unit else {}),
            }

    def _software(self) -> Iterator[Entity]:
        run = self.run
        used = {"Python": run.python, "pyarrow": run.pyarrow, "NumPy": run.numpy}
        yield {
            "@id": self._tool,
            "@type": "SoftwareApplication",
            "name": "Integrum",
            "url": self._tool,
            "version": run.version,
            "description": "brings many delimited files and workbooks together into one table",
            "softwareRequirements": [f"{name} {version}" for name, version in used.items() if version],
        }


def _plain(some: Sequence[Entity]) -> Entity | Sequence[Entity]:
    """Some references; one alone stands without a list."""
    return some[0] if len(some) == 1 else some


def _ids(entities: Any) -> list[Entity]:
    return [{"@id": one["@id"]} for one in entities]


def _named(one: Held) -> Entity:
    return {"@id": _id(one.path)}


def _id(path: str) -> str:
    """The path of a file as a reference: letters that an address cannot have are coded."""
    return quote(path, safe="/!$&'()*+,;=@~-._")


def _file(one: Held) -> Entity:
    path = PurePosixPath(one.path)
    return {
        "@id": _id(one.path),
        "@type": "File",
        "name": path.name,
        "description": one.about,
        "encodingFormat": _FORMATS.get(path.suffix.lower()) or _KNOWN.guess_type(path.name)[0] or _BYTES,
        "contentSize": str(one.size),
        "sha256": one.sha256,
        **({"identifier": {"@id": f"#blake3-{_id(one.path)}"}} if one.blake3 else {}),
    }


def _hash(of: str, blake3: str) -> Entity:
    return {
        "@id": f"#blake3-{_id(of)}",
        "@type": "PropertyValue",
        "name": "BLAKE3",
        "propertyID": "BLAKE3",
        "value": blake3,
    }


def _later(started: str, seconds: float) -> str:
    try:
        return (datetime.fromisoformat(started) + timedelta(seconds=seconds)).isoformat(timespec="seconds")
    except ValueError:
        return started


def about_file(name: str) -> str:
    """What a file of a record is."""
    known: Mapping[str, str] = {
        PLAN: "the plan as it was used, with the places of the first run",
        NAME: "what the run says of itself: versions, times, counts, hashes",
        METHODS: "what was done, in words for a paper",
        "report.html": "a page about the run",
        "codebook.html": "the columns of the table in words",
        "codebook.md": "the columns of the table in words",
    }
    return known.get(name, f"a file of the record of the run: {PurePosixPath(name).stem}")
