"""What a CSV file says of itself in a file beside it: CSV on the Web, as the W3C has it.

Sources: *Metadata Vocabulary for Tabular Data* and *Model for Tabular Data and Metadata on the Web*, W3C Recommendations
of 17 December 2015.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import Any
from urllib.parse import quote

from integrum.values.types import TYPES, Type

_CONTEXT = "http://www.w3.org/ns/csvw"
_CREATOR = "Integrum"
_GUARDED = "an apostrophe stands before cells that a spreadsheet program would take for formulas"
# dates and times in the notation of the standard
_FORMS = {"%Y": "yyyy", "%m": "MM", "%d": "dd", "%H": "HH", "%M": "mm", "%S": "ss", "%f": "SSSSSS"}


NOTHING: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class Described:
    """A column of a CSV file."""

    # its name, its type, its unit and what it is
    name: str
    kind: Type
    unit: str = ""
    description: str = ""
    spelling: str = ""  # the one spelling of its dates and times in POSIX codes, or empty
    # the codes for missing values that its sources have; in the file such cells are empty
    missing: Sequence[str] = ()
    has_zone: bool = False  # whether an offset is behind each of its times


def metadata_of(
    file: str,
    columns: Sequence[Described],
    key: Sequence[str] = (),
    guarded: bool = False,
    about: Mapping[str, str] = NOTHING,
) -> str:
    """The text of the file with the metadata.

    Returns JSON.

    `key`: columns whose values tell every row from all others; none when that is not known. `guarded`: whether an
    apostrophe stands before cells that a spreadsheet program would take for formulas. `about`: what there is to say of the
    table as a whole, by the terms of Dublin Core.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> made = json.loads(metadata_of("my lakes.csv", [Described("water temp", TYPES["number"], "degC")]))
    >>> made["url"], made["tableSchema"]["columns"][0]["name"], made["tableSchema"]["columns"][0]["datatype"]
    ('my%20lakes.csv', 'water%20temp', 'double')
    """
    schema: dict[str, Any] = {"columns": [_column(one) for one in columns]}
    if key:
        schema["primaryKey"] = [_name(one) for one in key]
    table: dict[str, Any] = {
        "@context": _CONTEXT,
        "url": quote(file),
        "dc:creator": _CREATOR,
        **{f"dc:{term}": said for term, said in about.items() if said},
        "dialect": {"encoding": "utf-8", "delimiter": ",", "lineTerminators": ["\n"], "header": True},
        "tableSchema": schema,
    }
    if guarded:
        table["rdfs:comment"] = _GUARDED
    return json.dumps(table, indent=2, ensure_ascii=False) + "\n"


def described_in(text: str) -> tuple[list[Described], bool]:
    """What such a file says of the columns, and whether the table is guarded against formulas.

    Raises ValueError, KeyError or TypeError when it is another file.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> columns, _ = described_in(metadata_of("lakes.csv", [Described("time", TYPES["datetime"], has_zone=True)]))
    >>> columns[0].name, columns[0].kind.name, columns[0].has_zone
    ('time', 'datetime', True)
    """
    said = json.loads(text)
    found = []
    for one in said["tableSchema"]["columns"]:
        kind, has_zone = _kind_of(one["datatype"])
        unit, about = one.get("schema:unitText", ""), one.get("dc:description", "")
        found.append(Described(one["titles"], kind, unit, about, has_zone=has_zone))
    return found, said.get("rdfs:comment") == _GUARDED


def _kind_of(datatype: Any) -> tuple[Type, bool]:
    """The type with a datatype, and whether its values have an offset."""
    for kind in TYPES.values():
        if datatype == _zoned(kind):
            return kind, True
        spelled = isinstance(datatype, dict) and datatype["base"] == kind.spelled
        if datatype == kind.datatype or (kind.spelled and spelled):
            return kind, False
    raise ValueError(f"its datatype is not one of Integrum: {datatype!r}")


def _zoned(kind: Type) -> Any:
    """The datatype of times that have an offset."""
    if not (kind.has_day and kind.has_clock):
        return None
    return {**kind.datatype, "format": kind.datatype["format"].removesuffix("?")}


def is_own(path: Path) -> bool:
    """Whether a file with metadata was written by Integrum."""
    try:
        said = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return False
    return isinstance(said, dict) and said.get("dc:creator") == _CREATOR


def _column(one: Described) -> dict[str, Any]:
    said: dict[str, Any] = {"name": _name(one.name), "titles": one.name, "datatype": _datatype(one)}
    if one.description:
        said["dc:description"] = one.description
    if one.unit:
        said["schema:unitText"] = one.unit
    if one.missing:
        codes = ", ".join(json.dumps(code, ensure_ascii=False) for code in one.missing)
        said["rdfs:comment"] = f"empty where the sources have nothing or a missing code: {codes}"
    return said


def _datatype(one: Described) -> Any:
    if one.has_zone:
        return _zoned(one.kind)
    form = re.sub(r"%[A-Za-z]", lambda found: _FORMS.get(found[0], found[0]), one.spelling)
    return {"base": one.kind.spelled, "format": form} if form and "%" not in form else one.kind.datatype


def _name(name: str) -> str:
    """A name as the standard allows it: letters, digits and a few signs, all else percent-encoded."""
    coded = quote(name, safe="").replace("~", "%7E").replace("-", "%2D")
    return f"%5F{coded[1:]}" if coded.startswith("_") else coded
