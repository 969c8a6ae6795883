"""Words that say that there is no value, or one below what could be measured; names of months and days."""

from __future__ import annotations

import unicodedata

import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, texts, truths

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
_MONTHS = {
    "en": "january february march april may june july august september october november december",
    "en short": "jan feb mar apr may jun jul aug sep oct nov dec",
    "de": "januar februar märz april mai juni juli august september oktober november dezember",
    "de short": "jan feb mrz apr mai jun jul aug sep okt nov dez",
    "de other": "jänner feber maerz - - juno julei - sept - - -",
    "fr": "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
    "fr short": "janv févr mars avr mai juin juil août sept oct nov déc",
    "es": "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
    "es short": "ene feb mar abr may jun jul ago sep oct nov dic",
    "es other": "- - - - - - - - setiembre - - -",
    "pt": "janeiro fevereiro março abril maio junho julho agosto setembro outubro novembro dezembro",
    "pt short": "jan fev mar abr mai jun jul ago set out nov dez",
    "it": "gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
    "it short": "gen feb mar apr mag giu lug ago set ott nov dic",
    "nl": "januari februari maart april mei juni juli augustus september oktober november december",
    "nl short": "jan feb mrt apr mei jun jul aug sep okt nov dec",
    "pl": "styczeń luty marzec kwiecień maj czerwiec lipiec sierpień wrzesień październik listopad grudzień",
    "pl of": "stycznia lutego marca kwietnia maja czerwca lipca sierpnia września października listopada grudnia",
    "pl short": "sty lut mar kwi maj cze lip sie wrz paź lis gru",
}
_DAYS = (
    "monday tuesday wednesday thursday friday saturday sunday mon tue tues wed thu thur thurs fri sat sun "
    "montag dienstag mittwoch donnerstag freitag samstag sonnabend sonntag mo di mi do fr sa so "
    "lundi mardi mercredi jeudi vendredi samedi dimanche lun mar mer jeu ven sam dim "
    "lunes martes miércoles jueves viernes sábado domingo mié jue vie sáb dom "
    "segunda terça quarta quinta sexta seg ter qua qui sex "
    "lunedì martedì mercoledì giovedì venerdì sabato domenica gio "
    "maandag dinsdag woensdag donderdag vrijdag zaterdag zondag ma wo vr za zo "
    "poniedziałek wtorek środa czwartek piątek sobota niedziela pon wt śr czw pt sob niedz"
)


def is_flag(word: str) -> bool:
    """Whether a word says that a value is below, or above, what could be measured.

    Examples
    --------
    >>> is_flag("<LOD"), is_flag("n.d."), is_flag("n/a")
    (True, True, False)
    """
    return word.strip().lower() in _FLAGS


def flag_words(values: pa.Array) -> Mask:
    """Mask of the texts that are such words.

    Examples
    --------
    >>> flag_words(pa.array(["<LOD", "7.2", None])).tolist()
    [True, False, False]
    """
    return truths(pc.is_in(pc.utf8_lower(values), _FLAG_WORDS))


def plain(word: str) -> str:
    """A word without case, accents and a point at its end.

    Examples
    --------
    >>> plain("Févr."), plain("AOÛT")
    ('fevr', 'aout')
    """
    apart = unicodedata.normalize("NFKD", word.strip().rstrip(".").casefold())
    return "".join(letter for letter in apart if not unicodedata.combining(letter)).replace("ł", "l")


MONTHS: dict[str, int] = {
    plain(word): number
    for words in _MONTHS.values()
    for number, word in enumerate(words.split(), 1)
    if word != "-"
}
DAYS = frozenset(plain(word) for word in _DAYS.split())
