"""Which sources come into the table: what inspection, names, headers and duplicates say about each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from integrum.columns.binding import Bound
from integrum.columns.identifiers import Identified
from integrum.intake.inspecting import Inspection
from integrum.problems.problem import Problem
from integrum.sources.source import Source


@dataclass
class Admission:
    """Decides which sources come in, one by one in order.

    Parameters
    ----------
    keep_duplicates
        Whether a source with the same content as an earlier one comes in.
    """

    keep_duplicates: bool
    _first_with: dict[tuple[str, int], tuple[str, Mapping[str, str | None]]] = field(default_factory=dict)

    def decide(
        self, source: Source, seen: Inspection, bound: Bound | None, identified: Identified
    ) -> tuple[str, list[Problem]]:
        """The code of the problem for which a source is set aside, or ``""``; and what is to be said.

        `bound`: its header compared with the plan; None when it has none.
        """
        if seen.fault:
            return seen.fault.code, [seen.fault.problem("")]
        if identified.refused:
            return identified.problems[0].code, []
        if bound and bound.refused:
            return next(one.code for one in bound.problems if one.severity == "error"), []
        first = self._first_with.setdefault((seen.content, seen.size), (source.name, identified.values))
        twin, others = first
        if twin == source.name:
            return "", []
        differ = [name for name, value in identified.values.items() if others.get(name) != value]
        if differ and not _has_rows(seen):
            return "", []  # an empty month is not a copy of another
        though = ", ".join(
            f'{name} is "{identified.values[name] or ""}" here, and "{others.get(name) or ""}" there'
            for name in differ[:3]
        )
        said = same_content(twin, self.keep_duplicates, source.sheet is not None, though)
        return "" if self.keep_duplicates else said.code, [said]


def _has_rows(seen: Inspection) -> bool:
    """Whether a source has rows below its header."""
    return seen.again or any(piece.rows for piece in seen.pieces)


def same_content(twin: str, keep: bool, is_sheet: bool = False, though: str = "") -> Problem:
    """The problem of a source with the content of an earlier one; a warning where their identifiers differ."""
    return Problem(
        # a copy costs nothing; but where the name says something else, the right file may be missing
        "warning" if though and not keep else "note",
        "same-content",
        message=f"duplicate: the same content as {twin}, {'cell for cell' if is_sheet else 'byte for byte'}"
        + (f", though {though}" if though else "")
        + ("; both are in the table" if keep else "; the later one is set aside"),
        hint='set `duplicates = "keep"` in [rules] to have both',
    )
