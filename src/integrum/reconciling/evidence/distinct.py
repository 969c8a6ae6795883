"""Whether two columns have the same distinct values, as those of categories and codes do."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_distinct(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Compare the distinct values of two columns that are no measurements.

    Examples
    --------
    >>> one = Known(("sex",), 1, {"text": 5}, sample=("m", "f", "f", "m", "f"))
    >>> weigh_distinct(one, Known(("gender",), 2, {"text": 2}, sample=("f", "m")), Setting(2)).said
    'the same values: f, m'
    """
    a, b = one.distinct, other.distinct
    if not a or not b or one.family != other.family or one.decimals or other.decimals:
        return Finding((0.0, 0.0, 0.0))
    shared = a & b
    share = len(shared) / min(len(a), len(b))
    few = one.family == "text" and (len(a) < 0.5 * len(one.values) or len(b) < 0.5 * len(other.values))
    as_many = min(len(a) / len(one.values), len(b) / len(other.values)) / max(
        len(a) / len(one.values), len(b) / len(other.values)
    )
    said = ""
    if few and share > 0.5:
        some = sorted({value.strip() for value in one.values if value.strip().casefold() in shared})[:3]
        said = f"the same values: {', '.join(some)}" + (", …" if len(shared) > 3 else "")
    return Finding((share if one.family == "text" else 0.3 * share, float(few and not shared), as_many), said)


DISTINCT = Evidence(("values shared", "no text shared", "as many values"), weigh_distinct)
