"""Which encoding a sample is written in."""

from __future__ import annotations

import codecs
import re
import unicodedata
from dataclasses import dataclass
from functools import lru_cache

from integrum.problems.problem import counted

# encodings with one byte for a letter, the likeliest first
SINGLE = ("cp1252", "cp1250", "iso8859-2", "cp1251", "koi8-r", "cp1253", "mac-roman")
# encodings with several bytes for a letter, and the scripts that speak for each
MULTIPLE = ("shift_jis", "euc_jp", "gb18030", "big5", "euc_kr")
_SIGNS = frozenset("°µ²³±×·–—‘’“”…€£§½¼‰’«»¿¡®©™№ªº•¹´¨")
# the letters beyond ASCII of one language are mostly those of one of these sets
_ALPHABETS = tuple(
    map(
        frozenset,
        (
            "äöüß",
            "éèêëàâçîïôûùœæ",
            "åäöæøé",
            "ñáéíóúü",
            "ãõáéíóúâêôçà",
            "àèéìòù",
            "ëéïèöü",
            "ąćęłńóśźż",
            "áčďéěíňóřšťúůýž",
            "áäčďéíľňóôšťúýž",
            "áéíóöőúüű",
            "čćđšž",
            "þðæöáéíóúý",
        ),
    )
)
_WESTERN, _CENTRAL = (frozenset().union(*some) for some in (_ALPHABETS[:7], _ALPHABETS[7:]))
# a text in several languages of one region is less likely than one in one
_MIXED = 0.8
# the commoner an encoding is, the less it has to prove
_PRIORS = {"cp1252": 0.06, "mac-roman": 0.01, "iso8859-2": -0.02, "koi8-r": -0.02}
_SURE, _CLEARLY, _WELL = 0.8, 0.1, 0.6
_MOST, _FEW_LINES, _ENOUGH = 20_000, 400, 8


@dataclass(frozen=True)
class Encoding:
    """An encoding and how sure it is."""

    name: str  # as a plan says it
    certain: bool  # whether nothing else can be meant
    evidence: str
    only_ascii: bool = False  # whether the sample reads the same in all encodings but UTF-16


def detect_encoding(sample: bytes) -> Encoding:
    """Find the encoding of a sample.

    Examples
    --------
    >>> detect_encoding("Temp (°C)\\n7,2\\n".encode("cp1252")).name
    'cp1252'
    >>> detect_encoding("a,b\\n".encode("utf-16")).name, detect_encoding(b"a,b\\n").only_ascii
    ('utf-16', True)
    >>> detect_encoding("Озеро,Глубина\\nТихое,3\\nГлубокое,4\\n".encode("cp1251")).name
    'cp1251'
    """
    if sample.startswith(codecs.BOM_UTF8):
        return Encoding("utf-8", True, "a byte order mark")
    if sample.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return Encoding("utf-16", True, "a byte order mark")
    even, odd = sample[0:4000:2].count(0), sample[1:4000:2].count(0)
    length = max(len(sample[:4000]) // 2, 1)
    if max(even, odd) > 0.4 * length and min(even, odd) < 0.1 * length:
        return Encoding("utf-16-le" if odd > even else "utf-16-be", True, "every other byte is zero")
    if sample.isascii():
        return Encoding("utf-8", True, "only ASCII", only_ascii=True)
    if _is_utf8(sample):
        return Encoding("utf-8", True, "all bytes are valid UTF-8")
    return _by_letters(_lines_beyond_ascii(sample))


def _by_letters(lines: bytes) -> Encoding:
    """The encoding that gives the likeliest words."""
    count = sum(byte > 127 for byte in lines)
    said = f"{counted(count, 'byte')} beyond ASCII read{'s' if count == 1 else ''} best in this encoding"
    scores = {name: score for name in SINGLE if (score := _likeness(lines, name)) is not None}
    ranked = sorted(scores, key=lambda name: -scores[name])
    best = ranked[0] if ranked else "cp1252"
    rivals = [name for name in ranked[1:] if scores[best] - scores[name] < _CLEARLY]
    rivals = [name for name in rivals if _text(lines, name) != _text(lines, best)]
    if ranked and scores[best] >= _SURE:
        also = f"; {' and '.join(rivals[:2])} would also fit" if rivals else ""
        enough = count >= _ENOUGH or best in ("cp1252", "mac-roman")
        return Encoding(best, not rivals and enough, f"{said}{also}")
    several = _by_scripts(lines)
    if several:
        return Encoding(several, count >= _ENOUGH, said)
    likely = _by_library(lines)
    if likely and (not ranked or likely in scores or scores[best] < _WELL):
        return Encoding(likely, False, f"{said}, but this is uncertain")
    return Encoding(
        best,
        False,
        f"the encoding of {counted(count, 'byte')} beyond ASCII is unknown; {best} is the most likely",
    )


def _is_utf8(sample: bytes) -> bool:
    try:
        sample.decode("utf-8")
    except UnicodeDecodeError as error:
        return error.start >= len(sample) - 3 and "end of data" in error.reason
    return True


def _lines_beyond_ascii(sample: bytes) -> bytes:
    lines = (line for line in re.split(rb"[\r\n]+", sample) if not line.isascii())
    return b"\n".join(line for line, _ in zip(lines, range(_FEW_LINES), strict=False))[:_MOST]


def _text(lines: bytes, name: str) -> str:
    return lines.decode(name, "replace")


def _likeness(lines: bytes, name: str) -> float | None:
    """How well the letters beyond ASCII fit where they stand, from 0 to 1; None where the bytes are not valid."""
    try:
        text = lines.decode(name)
    except UnicodeDecodeError:
        return None
    score, count = 0.0, 0
    accented: list[str] = []
    padded = f" {text} "
    for at, letter in enumerate(padded):
        if letter < "\x80":
            continue
        count += 1
        before, after = padded[at - 1], padded[at + 1]
        script = "" if letter in _SIGNS else _script(letter)
        if not script:
            inside = before.isalpha() and after.isalpha()
            beside_sign = after > "\x7f" and after not in _SIGNS
            good = 0.0 if (inside and letter not in "’'·´") or beside_sign else 1.0
            score += good if letter in _SIGNS else -0.5
            continue
        beside = [each for each in (before, after) if each.isalpha()]
        in_case = not (letter.isupper() and before.isalpha() and before.islower())
        in_case = in_case and not (
            letter.islower() and len(beside) == 2 and before.isupper() and after.isupper()
        )
        in_case = in_case and not (letter.islower() and after.isalpha() and after.isupper())
        same = all(_script(each) == script for each in beside)
        if script == "LATIN":
            accented.append(letter.lower())
            same = same and not (before > "\x7f" and after > "\x7f" and before.isalpha() and after.isalpha())
        weight = 0.5 if not beside else 1.0
        score += weight if same and in_case else 0.0
    coherent = 1.0
    if accented:
        alone = max(sum(letter in each for letter in accented) for each in _ALPHABETS)
        mixed = max(sum(letter in each for letter in accented) for each in (_WESTERN, _CENTRAL))
        coherent = max(alone, _MIXED * mixed) / len(accented)
    return max(score, 0.0) / count * (0.4 + 0.6 * coherent) + _PRIORS.get(name, 0.0) if count else 0.0


@lru_cache(maxsize=4096)
def _script(letter: str) -> str:
    """The script of a letter; empty for what is not a letter."""
    return unicodedata.name(letter, "").split(" ", 1)[0] if letter.isalpha() else ""


def _by_scripts(lines: bytes) -> str:
    """The East Asian encoding that gives kana, hangul, or certain Chinese; empty where none does."""
    shares: dict[str, float] = {}
    for name in MULTIPLE:
        try:
            text = lines.decode(name)
        except UnicodeDecodeError:
            continue
        beyond = [letter for letter in text if ord(letter) > 127]
        scripts = [_script(letter) for letter in beyond]
        if name in ("shift_jis", "euc_jp"):
            kana = sum(script in ("HIRAGANA", "KATAKANA", "KATAKANA-HIRAGANA") for script in scripts)
            share: float = kana if "HALFWIDTH" not in scripts else 0
            share += sum(letter in _JAPANESE for letter in beyond)
        elif name == "euc_kr":
            share = 0.45 * scripts.count("HANGUL")
        else:
            share = sum(letter in _CHINESE for letter in beyond)
        shares[name] = share / max(len(beyond), 1)
    best = max(shares, key=lambda name: shares[name], default="")
    return best if best and shares[best] >= _SHARE else ""


_SHARE = 0.3
# the commonest letters of Chinese, and some of measurement, in both ways of writing
_CHINESE = frozenset(
    "的一是不了人我在有他这这中大来上个国到说们为子和你地出道也时年得就那要下以生会自着去之过家学对可她里后小么心多天而能好都然没日于起还"
    "發這來個國說們為時過會學對裡後麼沒還無開見長樣現點從問進種經與給實體電話車東門間業樂"
    "水湖河海深度温溫站点點期号號名称稱数數据據值量高低平均样樣本氧盐鹽浊濁监監测測日月年时時间間风風雨备註注总總单單位质質北南东東西"
)

_JAPANESE = frozenset(
    "温度深観測点水湖池川海地日月年時分備考平均最大小値番号名種類個体数調査採集場所天気風雨量気圧湿"
)


def _by_library(lines: bytes) -> str:
    """The guess of the detection library; empty where it has no good one."""
    from charset_normalizer import from_bytes  # seldom needed, and slow to import

    guess = from_bytes(lines[:_MOST]).best()
    if guess is None or guess.encoding in ("ascii", "utf_8") or guess.percent_chaos > 10:
        return ""
    try:
        name = codecs.lookup(guess.encoding).name
    except LookupError:
        return ""
    return {"mac-roman": "mac-roman", "latin_1": "cp1252", "iso8859-1": "cp1252"}.get(name, name)
