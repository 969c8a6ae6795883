"""The codebook as pages for people: one in HTML, one in Markdown."""

from __future__ import annotations

from pathlib import Path

from integrum.measures.tables import CODEBOOK, CODEBOOK_TEXT
from integrum.pages.page import drawn, part_of_page, write_page
from integrum.problems import counted
from integrum.recording.read import Record


def make_codebook(record: Record, replace: bool = False) -> list[Path]:
    """Make both pages, and put them into the record.

    Raises OutputError when a page cannot be written, or another one is in its place.

    `replace`: whether a page that was not made by Integrum, or was changed since, may be written over.
    """
    names = ", ".join(one.path.name for one in record.outputs[:3]) or "a table"
    of = record.plan.dataset
    page = {
        "title": f"{of.title or names}: codebook",
        "description": of.description,
        "said": f"{names}: {counted(record.run.rows, 'row')}, {counted(len(record.run.columns), 'column')}, "
        f"from {counted(record.run.sources.get('assembled', 0), 'source')}.",
        "columns": record.codebook,
        "made_by": f"Made by Integrum {record.run.version} from the record {record.folder.name}, seal {record.seal}.",
    }
    texts = {
        CODEBOOK: drawn("codebook.html.jinja", page=page, style=part_of_page("base.css")),
        CODEBOOK_TEXT: drawn("codebook.md.jinja", page=page) + "\n",
    }
    return [write_page(record.folder / name, text, replace) for name, text in texts.items()]
