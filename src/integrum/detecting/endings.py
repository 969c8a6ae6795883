"""Words that begin the totals, the statistics and the notes below a table."""

from __future__ import annotations

import re

# in English, German, French, Spanish, Portuguese, Italian, Dutch and Polish; each is the whole of a cell
_SUMMARIES = frozenset(
    """
    total|totals|grand total|subtotal|sub total|sub-total|overall|sum|sums|mean|means|average|averages|avg|avg.|median|min|max|min.|max.
    minimum|maximum|count|counts|n|no. of values|std|std.|sd|s.d.|stdev|std dev|std. dev.|standard deviation|se|s.e.|sem
    standard error|var|variance|cv|range|mean ± sd|percentile|quartile
    summe|gesamt|gesamtsumme|insgesamt|mittel|mittelwert|durchschnitt|anzahl|standardabweichung|zwischensumme
    somme|moyenne|médiane|mediane|écart-type|ecart-type|effectif|total général
    suma|promedio|media|mediana|mínimo|máximo|minimo|massimo|soma|média|mínima|máxima|totale|somma|conteggio
    totaal|som|gemiddelde|mediaan|aantal|razem|średnia|srednia|łącznie|ogółem|liczba
    """.replace("\n", "|").split("|")
)
_SUMMARIES = frozenset(word.strip() for word in _SUMMARIES if word.strip())
_NOTES = re.compile(
    r"(?:foot)?notes?\b|n\.?\s?b\.?\b|remarks?\b|comments?\b|end( of (the )?(file|data|table|report|export|record)s?)?$|eof$|sources?\b|legend\b|key\b|"
    r"checked\b|signed\b|signature\b|printed\b|generated\b|exported\b|created\b|compiled\b|approved\b|prepared\b|"
    r"\*|—|–{2}|--|†|‡|\(?\d\)\s|[¹²³]|anmerkung|hinweis|bemerkung|quelle|remarque|nota\b|observaci|fonte\b|fuente\b|opmerking|uwag",
    re.IGNORECASE,
)
_UP_TO = re.compile(r"[:=]")
_COUNTED = re.compile(r"n\s*=\s*\d+", re.IGNORECASE)


def is_summary(cell: str) -> bool:
    """Whether a whole cell, or what stands before its colon or equals sign, is a word for a statistic.

    Examples
    --------
    >>> [is_summary(cell) for cell in ("Total", "Mean:", "n = 12", "Summer", "Minnesota", "Total count of fish")]
    [True, True, True, False, False, False]
    """
    return leading(cell).casefold() in _SUMMARIES or _COUNTED.fullmatch(cell.strip()) is not None


def is_note(cell: str) -> bool:
    """Whether a cell begins like a remark below a table.

    Examples
    --------
    >>> [is_note(cell) for cell in ("Note: checked", "* estimated", "End of file", "Noteworthy", "Endmere")]
    [True, True, True, False, False]
    """
    return _NOTES.match(cell.strip()) is not None


def leading(cell: str) -> str:
    """A cell up to its first colon or equals sign, without outer spaces.

    Examples
    --------
    >>> leading(" Total: 12 "), leading("Total")
    ('Total', 'Total')
    """
    return _UP_TO.split(cell, maxsplit=1)[0].strip()
