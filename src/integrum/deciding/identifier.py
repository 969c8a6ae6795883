"""Decide about a few texts that stand in no source: identifiers from names, sheets and preambles."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from integrum.arrow.arrays import texts
from integrum.deciding.column import decide
from integrum.deciding.decision import Decision
from integrum.deciding.seen import Evidence, Seen
from integrum.values.evidence import looks


def decide_texts(values: Sequence[str | None], marks: tuple[str, str] = (".", "")) -> Decision:
    """Decide about the values of an identifier, by the same evidence as about columns.

    Without missing codes: the name of a file says something, or it does not.

    `marks`: the decimal mark and the mark between thousands that its numbers are written with.

    Examples
    --------
    >>> decide_texts(["2021", "2022"]).type, decide_texts(["00417", "00418"]).type, decide_texts(["2024-05-01"]).type
    ('integer', 'text', 'date')
    """
    kinds, at, details, _ = looks(texts(values), marks)
    seen = [
        Seen(0, 0, int(kind), 1, number, value or "", details[place])
        for number, (kind, place, value) in enumerate(zip(kinds, at, values, strict=True))
    ]
    made = decide(Evidence(seen, marks={0: marks}))
    return Decision() if made.missing or made.censored or made.bad else replace(made, unit="")
