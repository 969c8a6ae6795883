"""Whether the values of two columns are of one type, and written alike."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_kinds(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Compare types, and how values are written: digits as 9, words as a.

    Examples
    --------
    >>> codes = Known(("site",), 1, {"text": 2}, sample=("A-12", "B-07")), Known(("stn",), 2, {"text": 1}, sample=("C-31",))
    >>> weigh_kinds(*codes, Setting(2)).figures
    (1.0, 0.0)
    """
    if not one.may_be_of_kind(other):
        return Finding((0.0, 0.0))
    alike = sum(min(share, other.shapes.get(shape, 0.0)) for shape, share in one.shapes.items())
    said = "written alike" if alike > 0.8 and one.family in ("text", "time") else ""
    return Finding((0.0, alike) if one.family == other.family == "number" else (alike, 0.0), said)


KINDS = Evidence(("written alike", "numbers written alike"), weigh_kinds)
