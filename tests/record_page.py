"""The tables of docs/record.md, made from the columns of the record's files: python tests/record_page.py writes them."""

import re
from pathlib import Path
from typing import Any

from integrum.measures.measures import TABLES
from integrum.record.table import RecordTable

PAGE = Path(__file__).parent.parent / "docs" / "record.md"
_TABLE = re.compile(r"\| column \| meaning \|\n\|---\|---\|\n(?:\|.*\n)+")


def described(table: RecordTable[Any]) -> str:
    """The columns of a file as a table of Markdown."""
    lines = [f"| `{column.name}` | {column.about} |" for column in table.columns]
    return "\n".join(["| column | meaning |", "|---|---|", *lines]) + "\n"


def page() -> str:
    """The page with the tables that it should have; a section without one gets it at its end."""
    parts = re.split(r"^(## .+\n)", PAGE.read_text(encoding="utf-8"), flags=re.M)
    for table in TABLES:
        at = parts.index(f"## {table.file}\n") + 1
        text, found = _TABLE.subn(lambda _: described(table), parts[at])  # noqa: B023
        parts[at] = text if found else f"{text.rstrip()}\n\n{described(table)}\n"
    return "".join(parts)


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
