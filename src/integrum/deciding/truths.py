"""Whether a column is one of true and false: a word and its opposite, both there."""

from __future__ import annotations

from collections.abc import Sequence

from integrum.deciding.decision import Decision
from integrum.deciding.seen import Range, Seen
from integrum.values.evidence import BOOLEAN, INTEGER, WRITTEN_BOOLEAN
from integrum.values.truth_words import PAIRS


def as_boolean(seen: Sequence[Seen], ranges: Sequence[Range]) -> Decision | None:
    """Decide about a column with words of truth; None where it has others, or a word without its opposite.

    Examples
    --------
    >>> yes, no = Seen(0, 0, WRITTEN_BOOLEAN, 5, 2, "yes", "yes"), Seen(1, 0, WRITTEN_BOOLEAN, 3, 2, "no", "no")
    >>> as_boolean([yes, no], ()).type, as_boolean([yes], ())
    ('boolean', None)
    """
    if any(one.kind not in (BOOLEAN, WRITTEN_BOOLEAN, INTEGER) for one in seen):
        return None
    if any(one.kind == INTEGER for one in seen) and any(one.least < 0 or one.greatest > 1 for one in ranges):
        return None
    words = {one.detail.casefold() for one in seen if one.kind == WRITTEN_BOOLEAN}
    for word in words:
        opposites = {other for pair in PAIRS if word in pair for other in pair if other != word}
        if not opposites & words and not (opposites & {"true", "false"}):
            return None
    return Decision("boolean")
