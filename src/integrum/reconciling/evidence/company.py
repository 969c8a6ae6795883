"""Whether two columns keep the same company: whether the sources of the one have the other columns of those of the other."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_company(one: Known, other: Known, setting: Setting) -> Finding:
    """Compare the columns that stand in the sources of two columns.

    Examples
    --------
    >>> setting = Setting(4, company={"temp": frozenset({1, 2}), "t": frozenset({1, 3, 4}), "wage": frozenset({5})})
    >>> temp, t, wage = Known(("temp",), 1), Known(("t",), 2), Known(("wage",), 4)
    >>> weigh_company(temp, t, setting).figures, weigh_company(temp, wage, setting).figures
    ((0.5,), (0.0,))
    """
    mine, theirs = (setting.company.get(each.name, frozenset()) for each in (one, other))
    least = min(len(mine), len(theirs))
    return Finding((len(mine & theirs) / least if least else 0.0,))


COMPANY = Evidence(("same company",), weigh_company)
