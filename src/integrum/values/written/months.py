"""The names of months and of days of the week, in eight languages, whole and short."""

from __future__ import annotations

import unicodedata

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
