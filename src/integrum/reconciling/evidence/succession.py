"""Whether one column ends in the order of the sources where the other begins."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_succession(one: Known, other: Known, setting: Setting) -> Finding:
    """Look at where two columns begin and end, and at how many sources have one of them.

    Examples
    --------
    >>> years = Setting(4, labels=("2019", "2020", "2021", "2022"))
    >>> weigh_succession(Known(("T_water",), 0b0011), Known(("water_temp",), 0b1100), years)
    Finding(figures=(1.0, 1.0), said='T_water ends with 2020, water_temp begins with 2021')
    """
    if not one.sources or not other.sources:
        return Finding((0.0, 0.0))
    first, second = sorted((one, other), key=lambda each: each.sources & -each.sources)
    last = first.sources.bit_length() - 1
    begins = (second.sources & -second.sources).bit_length() - 1
    follows = 0.0
    if last < begins:
        between = ((1 << begins) - 1) >> (last + 1)
        follows = 1.0 if not between else 0.5
    either = (one.sources | other.sources).bit_count() / max(setting.sources, 1)
    said = ""
    if follows == 1.0 and begins < len(setting.labels):
        said = f"{first.name} ends with {setting.labels[last]}, {second.name} begins with {setting.labels[begins]}"
    return Finding((follows, either), said)


SUCCESSION = Evidence(("one follows the other", "together everywhere"), weigh_succession)
