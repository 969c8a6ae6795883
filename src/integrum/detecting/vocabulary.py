"""The words by which headers, statistics and notes are known. A new word is added here."""

from __future__ import annotations

import re

# fmt: off
# parts of the names that columns often have
HEADER_WORDS = frozenset(
    (
        "abundance", "age", "air", "altitude", "amount", "anzahl", "area", "author", "basin", "battery",
        "begin", "bemerkung", "block", "bottle", "category", "chlorophyll", "class", "code", "collector",
        "comment", "comments", "concentration", "conductivity", "count", "data", "date", "datetime",
        "datum", "day", "density", "depth", "description", "device", "direction", "discharge", "distance",
        "do", "easting", "elevation", "end", "error", "estacion", "family", "fecha", "field", "file",
        "flag", "flow", "genus", "group", "height", "heure", "hora", "hour", "humidity", "id", "index",
        "instrument", "jahr", "jour", "key", "kind", "label", "lake", "lat", "latitude", "length", "level",
        "lieu", "light", "location", "lon", "long", "longitude", "lugar", "luogo", "mass", "max", "mean",
        "measure", "measurement", "method", "min", "minute", "monat", "month", "n", "name", "nitrate", "no",
        "northing", "note", "notes", "nr", "num", "number", "observer", "operator", "ora", "order", "ort",
        "oxygen", "par", "parameter", "percent", "person", "ph", "phosphate", "place", "plot", "point",
        "precipitation", "pressure", "probe", "profondeur", "profondita", "profundidad", "quality",
        "quantity", "quarter", "rain", "rate", "ratio", "region", "remark", "remarks", "rep", "replicate",
        "result", "river", "round", "row", "run", "salinity", "sample", "sampled", "score", "sd", "season",
        "secchi", "sensor", "serial", "sex", "site", "sitio", "source", "species", "specimen", "speed",
        "stage", "start", "station", "status", "std", "stelle", "stream", "tag", "taxon", "temp", "temp1",
        "temp2", "temperature", "tiefe", "time", "timestamp", "title", "total", "transect", "treatment",
        "trial", "turbidity", "type", "unit", "units", "valeur", "valor", "valore", "value", "values",
        "variable", "variable1", "version", "visit", "voltage", "volume", "water", "week", "weight", "wert",
        "width", "wind", "x", "y", "year", "z", "zeit",
    )
)

# what stands in the place of a value that could not be had, and is not a name of a column
NO_NAMES = frozenset(
    (
        "-inf", "<lod", "bad", "bdl", "below detection", "below detection limit", "broken", "err", "error",
        "failed", "fault", "inf", "infinity", "invalid", "lod", "lost", "missing", "n.d.", "n.k.", "n/d",
        "nan", "nd", "no data", "none", "not available", "not measured", "null", "out of range", "see note",
        "see notes", "tbd", "unk", "unknown", "void",
    )
)

# what a logger does with its readings before it writes one of them
PROCESSING = frozenset(
    (
        "average", "avg", "cov", "inst", "instant", "instantaneous", "last", "max", "maximum", "mean", "median", "med",
        "min", "minimum", "rms", "sample", "sampled", "smp", "sd", "std", "std dev", "stdev", "sum", "tmn", "tmx", "tot",
        "total", "totalise", "totalize", "txt", "vector", "wvc", "wvec",
    )
)

# statistics and totals, each the whole of a cell, and what they may be: in English, German, French, Spanish, Portuguese,
# Italian, Dutch and Polish
_WORDS = {
    ("sum",): (
        "gesamtsumme", "grand total", "som", "soma", "somma", "somme", "sub total", "sub-total", "subtotal",
        "sum", "suma", "summe", "sums", "zwischensumme",
    ),
    ("sum", "count", "mean"): (
        "all", "gesamt", "insgesamt", "ogółem", "overall", "razem", "totaal", "total", "total général",
        "totale", "totals", "łącznie",
    ),
    ("mean",): (
        "average", "averages", "avg", "avg.", "durchschnitt", "gemiddelde", "mean", "means", "mittel",
        "mittelwert", "moyenne", "média", "promedio", "srednia", "średnia", "mean ± sd",
    ),
    ("mean", "median"): ("media",),
    ("median",): ("mediaan", "median", "mediana", "mediane", "médiane"),
    ("least",): ("min", "min.", "minimo", "minimum", "mínima", "mínimo"),
    ("greatest",): ("massimo", "max", "max.", "maximum", "máxima", "máximo"),
    ("count",): (
        "aantal", "anzahl", "conteggio", "count", "counts", "effectif", "liczba", "n", "no. of values",
    ),
    ("range",): ("range",),
    ("deviation",): (
        "ecart-type", "s.d.", "sd", "standard deviation", "standardabweichung", "std", "std dev", "std.",
        "std. dev.", "stdev", "écart-type",
    ),
    ("error",): ("s.e.", "se", "sem", "standard error"),
    ("variance",): ("var", "variance"),
    ("variation",): ("cv",),
    ("quantile",): ("percentile", "quartile"),
}
STATISTICS = {word: kinds for kinds, words in _WORDS.items() for word in words}
# of these, words that hardly ever stand for something else
TOTALS = frozenset(
    word for kinds, words in _WORDS.items() for word in words if kinds[0] in ("sum", "mean") and len(word) > 3
) - {"media", "means", "all", "overall"}
# fmt: on

# how remarks below a table begin
NOTES = (
    r"(?:foot)?notes?\b",
    r"n\.?\s?b\.?\b",
    r"remarks?\b",
    r"comments?\b",
    r"end( of (the )?(file|data|table|report|export|record)s?)?$",
    r"eof$",
    r"sources?\b",
    r"legend\b",
    r"key\b",
    r"checked\b",
    r"signed\b",
    r"signature\b",
    r"printed\b",
    r"generated\b",
    r"exported\b",
    r"created\b",
    r"compiled\b",
    r"approved\b",
    r"prepared\b",
    r"\*",
    r"—",
    r"–{2}",
    r"--",
    r"†",
    r"‡",
    r"\(?\d\)\s",
    r"[¹²³]",
    r"anmerkung",
    r"hinweis",
    r"bemerkung",
    r"quelle",
    r"remarque",
    r"nota\b",
    r"observaci",
    r"fonte\b",
    r"fuente\b",
    r"opmerking",
    r"uwag",
)
_NOTES = re.compile("|".join(NOTES), re.IGNORECASE)
_UP_TO = re.compile(r"[:=]")
COUNTED = re.compile(r"n\s*=\s*\d+", re.IGNORECASE)


def is_summary(cell: str) -> bool:
    """Whether a whole cell, or what stands before its colon or equals sign, is a word for a statistic.

    Examples
    --------
    >>> [is_summary(cell) for cell in ("Total", "Mean:", "n = 12", "Summer", "Minnesota", "Total count of fish")]
    [True, True, True, False, False, False]
    """
    return leading(cell).casefold() in STATISTICS or COUNTED.fullmatch(cell.strip()) is not None


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
