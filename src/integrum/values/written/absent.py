"""Words and signs that say that there is no value, and those that say that it is below what could be measured."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Mask, texts, truths

# of whatever column: nobody writes them for anything else
CLEAR = frozenset(
    {
        "n/a", "#n/a", "#n/v", "#nv", "#n/d", "#nd", "null", "nan", "-nan", "1.#qnan", "1.#ind", "-1.#ind", "<na>", "\\n",
        "n.a.", "no data", "nodata", "no value", "not available", "not applicable", "not measured", "not recorded",
        "missing", "missing value", "keine angabe", "keine daten", "kein wert", "nicht gemessen", "non mesuré",
        "non disponible", "pas de données", "sin datos", "sin dato", "no medido", "no disponible", "sem dados",
        "sem valor",
        "não medido", "não disponível", "non disponibile", "non misurato", "nessun dato", "dato mancante", "geen data",
        "geen gegevens", "niet gemeten", "niet beschikbaar", "brak danych", "nie zmierzono", "(null)", "(blank)",
        "[null]",
        "n/m", "not sampled", "no sample", "no reading", "manquant", "fehlt", "fehlend", "mancante", "ontbreekt",
    }
)  # fmt: skip
# among numbers and times only: elsewhere they may mean something
AMONG_NUMBERS = frozenset(
    {
        "-", "--", "---", "–", "—", ".", "..", "...", "…", "?", "??", "*", "**", "/", "//", "na", "n.a", "n. a.",
        "none", "nil", "0000-00-00", "0000-00-00 00:00:00", "00.00.0000", "00/00/0000",
        "nul", "void", "k.a.", "k. a.",
        "k.a", "n.v.", "n.b.", "s/d", "s.d.", "s/dato", "b.d.", "b/d",
        "brak", "ns", "nr", "nm",
        "n.m.", "n.r.", "n.s.", "empty", "unknown", "unk", "unbekannt", "inconnu", "desconocido", "desconhecido",
        "sconosciuto",
        "onbekend", "nieznany", "leer", "vide", "vacío", "vazio", "vuoto", "leeg", "puste",
    }
)  # fmt: skip
# below what could be measured, or not found; the words go to the column of signs
_FLAGS = frozenset(
    {
        "nd", "n.d.", "n.d", "n. d.", "bdl", "b.d.l.", "<dl", "<ld", "<lod", "<loq", "<lq", "<mdl", "<rl", "<bg",
        "<ng", "<nwg", "<bdl",
        "< dl", "< ld", "< lod", "< loq", "< lq", "< mdl", "< rl", "< bg", "< ng", "< nwg", "bld", "blq", "bql", "lod",
        "loq", "u.d.l.", "udl",
        "not detected", "non detect", "non-detect", "nondetect", "below detection", "below detection limit", "n.n.",
        "nicht nachweisbar", "nicht nachgewiesen", "non détecté", "non rilevato", "no detectado", "não detectado",
        "niet aangetoond",
        "nie wykryto", "trace", "traces", "spuren", "tr.", ">uloq", "> uloq", "over range", "overrange", "ovr",
        "> max", ">max", "overflow",
        "tntc",
    }
)  # fmt: skip
_FLAG_WORDS = texts(sorted(_FLAGS))


def is_flag(word: str) -> bool:
    """Whether a word says that a value is below, or above, what could be measured.

    Examples
    --------
    >>> is_flag("<LOD"), is_flag("n.d."), is_flag("n/a")
    (True, True, False)
    """
    return word.strip().lower() in _FLAGS


def flag_words(values: pa.Array) -> Mask:
    """Which texts are such words.

    Examples
    --------
    >>> flag_words(pa.array(["<LOD", "7.2", None])).tolist()
    [True, False, False]
    """
    return truths(pc.is_in(pc.utf8_lower(values), _FLAG_WORDS))
