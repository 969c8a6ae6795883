"""What a CSV file says of itself in a file beside it: CSV on the Web, as the W3C has it.

Sources: *Metadata Vocabulary for Tabular Data* and *Model for Tabular Data and Metadata on the Web*, W3C Recommendations
of 17 December 2015.
"""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote

from integrum.values.types import Type

_CONTEXT = "http://www.w3.org/ns/csvw"
_CREATOR = "Integrum"
# dates and times in the notation of the standard
_FORMS = {"%Y": "yyyy", "%m": "MM", "%d": "dd", "%H": "HH", "%M": "mm", "%S": "ss", "%f": "SSSSSS"}


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


def metadata_of(file: str, columns: Sequence[Described], key: Sequence[str] = ()) -> str:
    """The text of the file with the metadata.

    Returns JSON.

    `key`: columns whose values tell every row from all others; none when that is not known.

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
    table = {
        "@context": _CONTEXT,
        "url": quote(file),
        "dc:creator": _CREATOR,
        "dialect": {"encoding": "utf-8", "delimiter": ",", "lineTerminators": ["\n"], "header": True},
        "tableSchema": schema,
    }
    return json.dumps(table, indent=2, ensure_ascii=False) + "\n"


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
    form = re.sub(r"%[A-Za-z]", lambda found: _FORMS.get(found[0], found[0]), one.spelling)
    return {"base": one.kind.spelled, "format": form} if form and "%" not in form else one.kind.datatype


def _name(name: str) -> str:
    """A name as the standard allows it: letters, digits and a few signs, all else percent-encoded."""
    coded = quote(name, safe="").replace("~", "%7E").replace("-", "%2D")
    return f"%5F{coded[1:]}" if coded.startswith("_") else coded
