"""Which encoding a sample is written in."""

from __future__ import annotations

import codecs
import re
import unicodedata
from dataclasses import dataclass

CANDIDATES = ("cp1252", "mac-roman")
_NAMES = {"cp1252": "cp1252", "mac_roman": "mac-roman", "latin_1": "cp1252"}
_LIKELY = set("°µ²³±·×–—’‘“”…€£§½¼‰")


@dataclass(frozen=True)
class Encoding:
    """An encoding and how sure it is.

    Attributes
    ----------
    name
        As a plan says it.
    certain
        Whether nothing else can be meant.
    evidence
        Why.
    only_ascii
        Whether the sample reads the same in all encodings but UTF-16.
    """

    name: str
    certain: bool
    evidence: str
    only_ascii: bool = False


def detect_encoding(sample: bytes) -> Encoding:
    """Find the encoding of a sample.

    Examples
    --------
    >>> detect_encoding("Temp (°C)\\n7,2\\n".encode("cp1252")).name
    'cp1252'
    >>> detect_encoding("a,b\\n".encode("utf-16")).name, detect_encoding(b"a,b\\n").only_ascii
    ('utf-16', True)
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
    scores = {name: _likeness(sample, name) for name in CANDIDATES}
    best, other = sorted(CANDIDATES, key=lambda name: -scores[name])
    certain = scores[best] - scores[other] > 0.4
    if not certain:
        from charset_normalizer import from_bytes  # seldom needed, and slow to import

        guess = from_bytes(
            _lines_beyond_ascii(sample), cp_isolation=["cp1252", "mac_roman", "latin_1"]
        ).best()
        if guess is not None and scores[best] == scores[other]:
            best = _NAMES.get(guess.encoding, best)
    others = sum(byte > 127 for byte in sample)
    return Encoding(best, certain, f"{others:,} bytes beyond ASCII read best so")


def _is_utf8(sample: bytes) -> bool:
    try:
        sample.decode("utf-8")
    except UnicodeDecodeError as error:
        return error.start >= len(sample) - 3 and "end of data" in error.reason
    return True


def _lines_beyond_ascii(sample: bytes) -> bytes:
    return b"\n".join(line for line in sample.splitlines() if not line.isascii())[:20_000]


def _likeness(sample: bytes, name: str) -> float:
    """How well the letters beyond ASCII fit where they stand, from 0 to 1."""
    text = _lines_beyond_ascii(sample).decode(name, "replace")
    score, count = 0.0, 0
    for found in re.finditer(r"(.?)([^\x00-\x7f])(?=(.?))", text):
        before, letter, after = found.groups()
        count += 1
        beside_letter = before.isalpha() or after.isalpha()
        category = unicodedata.category(letter)
        if letter in _LIKELY:
            score += 1.0
        elif category in ("Ll", "Lu"):
            latin = "LATIN" in unicodedata.name(letter, "")
            in_case = not (category == "Lu" and before.isalpha() and before.islower())
            score += (0.95 if beside_letter and in_case else 0.4) if latin else 0.1
        elif category in ("Cc", "Cn", "Co") or letter == "\ufffd":
            score -= 1.0
        else:
            score += 0.2
    return score / count if count else 0.0
