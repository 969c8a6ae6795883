"""How alike two names are letter by letter."""

from __future__ import annotations

from rapidfuzz import fuzz
from rapidfuzz.distance import JaroWinkler

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_spelling(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Compare two names letter by letter, the order of their words aside.

    Examples
    --------
    >>> found = weigh_spelling(Known(("turbidity",), 1), Known(("turbitidy",), 2), Setting(2))
    >>> [round(figure, 2) for figure in found.figures]
    [0.78, 0.98]
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0, 0.0))
    a, b = " ".join(one.words), " ".join(other.words)
    figures = (
        fuzz.token_sort_ratio(a, b) / 100,
        JaroWinkler.similarity(a.replace(" ", ""), b.replace(" ", "")),
    )
    return Finding(figures, "similar spelling" if figures[0] > 0.75 else "")


SPELLING = Evidence(("letters alike", "beginnings alike"), weigh_spelling)
