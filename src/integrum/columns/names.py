"""When two header names differ only in how they are written."""

from __future__ import annotations

import unicodedata


def loosened(name: str) -> str:
    """A name without regard to case, spaces and punctuation.

    Signs that carry meaning in measurements stay: ``%``, ``#``, ``&``, ``@``, ``°``, ``+``, ``µ`` and the like.

    Parameters
    ----------
    name
        A header cell or column name.

    Returns
    -------
    str
        Equal for names that differ only in how they are written; empty when nothing is left.

    Examples
    --------
    >>> loosened("Water_Temp (°C)") == loosened("water temp [°c]"), loosened("O2 (%)") == loosened("O2")
    (True, False)
    """
    folded = unicodedata.normalize("NFKC", name).casefold()
    return "".join(
        letter
        for letter in unicodedata.normalize("NFKC", folded)
        if not letter.isspace() and (letter in "%#&@" or unicodedata.category(letter)[0] not in "PCZ")
    )
