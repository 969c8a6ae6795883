"""What a run says of its table in the file beside an output in CSV."""

from __future__ import annotations

from integrum.assembling.run import RunResult
from integrum.plan.plan import Plan
from integrum.writing.csvw import Described, metadata_of


def metadata_about(file: str, made: RunResult, plan: Plan, guarded: bool) -> str:
    """The text of the metadata of a table in CSV."""
    entries = {one.column: one for one in made.columns}
    about = {one.name: one for one in plan.table_columns}
    columns = []
    for field, kind in zip(made.schema.arrow, made.schema.types, strict=True):
        said = (field.metadata or {}).get(b"description", b"").decode()
        entry, column = entries.get(field.name), about.get(field.name)
        if entry is None:  # provenance
            columns.append(Described(field.name, kind, "", said))
            continue
        # what is behind a time with a zone is not in its spelling
        spelling = column.spelling if column and not column.zone else ""
        codes = column.missing if column else ()
        zone = bool(getattr(field.type, "tz", None))
        columns.append(Described(entry.column, kind, entry.unit, said, spelling, codes, zone))
    rows = sum(made.rows.values())
    filled = {one.column for one in made.columns if one.filled == rows}
    keys = [one.columns for one in made.checks if one.kind == "unique" and one.has_passed]
    key = next((key for key in keys if filled.issuperset(key)), ())
    of = plan.dataset
    people = ", ".join(one.name for one in of.persons)
    whole = {"title": of.title, "description": of.description, "rights": of.license, "contributor": people}
    return metadata_of(file, columns, key, guarded, whole)
