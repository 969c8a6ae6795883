"""How often the values of a column are there, source by source, from the rows that were looked at."""

from __future__ import annotations

from collections import Counter

from markupsafe import Markup

from integrum.pages.pictures import SHADES, shares_picture
from integrum.previewing.samples import Samples
from integrum.problems import clipped

# so many sources are drawn, and so many values are named; a column of ever other values has no picture
_SOURCES, _NAMED = 6, 8
_DISTINCT = 0.5


def frequent_values(name: str, samples: Samples) -> tuple[Markup, tuple[tuple[str, int], ...]]:
    """A picture of the most frequent values by source, and these with their counts; nothing where values hardly repeat."""
    every: Counter[str] = Counter()
    for _, counts in samples.counts:
        every.update(counts)
    total = sum(every.values())
    if not total or len(every) > max(_DISTINCT * total, 1):
        return Markup(""), ()
    top = every.most_common(_NAMED)
    shown = [value for value, _ in top[:SHADES]]
    rows = []
    for _, counts in samples.counts[:_SOURCES]:
        those = [counts[value] for value in shown]
        rows.append([*those, sum(counts.values()) - sum(those)])
    said = f"the most frequent values of {name} in {len(rows)} sources, a row for each"
    return shares_picture(said, rows), tuple((clipped(value, 40), count) for value, count in top)
