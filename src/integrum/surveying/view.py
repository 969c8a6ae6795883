"""A survey in a notebook."""

from __future__ import annotations

from typing import TYPE_CHECKING

from integrum import notebook
from integrum.grouped import problems_html
from integrum.surveying.words import (
    HOW_TO_DECIDE,
    beyond_mapping,
    difference,
    filled_from,
    headline,
    lacking_in,
    layout_words,
    shown_sources,
)

if TYPE_CHECKING:
    from integrum.surveying.findings import Survey


def survey_html(seen: Survey) -> str:
    """The variants, layouts, columns, guesses and problems of a survey as HTML."""
    parts = [notebook.title(headline(seen))]
    if len(seen.variants) > 1:
        rows = [
            (one.number, len(one.sources), shown_sources(one), difference(one, seen)) for one in seen.variants
        ]
        parts += [
            notebook.title("Header variants"),
            notebook.table(["variant", "sources", "which", "columns"], rows),
        ]
    if words := layout_words(seen):
        parts += [notebook.title("Layouts"), *(notebook.line(line) for line in words)]
    parts += _columns(seen)
    if seen.guesses:
        guesses = [
            (f"{one.score:.2f}", ", ".join(one.headers), one.column, one.because) for one in seen.guesses
        ]
        parts += [
            notebook.title("Columns that may be the same under other names"),
            notebook.table(["score", "header", "may be", "because"], guesses),
            notebook.line(HOW_TO_DECIDE, "dim"),
        ]
    return notebook.view(*parts, problems_html(seen.problems))


def _columns(seen: Survey) -> list[str]:
    if seen.mapping:
        rows = [(one.column, one.type, filled_from(one), lacking_in(one)) for one in seen.mapping]
        table = notebook.table(["column", "type", "filled from", "missing in"], rows, most=200)
        return [notebook.title("Columns of the plan"), table, *map(notebook.line, beyond_mapping(seen))]
    names = ["column", "type", "values", "sources", "from least to greatest", "evidence"]
    columns = [
        (one.name, one.type, one.filled, one.sources, one.reach, "\n".join(one.remarks))
        for one in seen.columns
    ]
    return [notebook.title("Columns"), notebook.table(names, columns, most=200)] if columns else []
