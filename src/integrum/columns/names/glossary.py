"""Words of measurement and field work that mean the same, in a few languages; a plan can add its own."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from importlib import resources

# words that say little about which column it is
_ENGLISH = ("of", "the", "at", "in", "on", "by", "for", "and", "to", "as", "is", "was", "with", "from", "per")
FILLERS = frozenset((*_ENGLISH, "de", "la", "le", "des", "du", "der", "die", "das", "da"))
_MOST_WORDS = 4
# a word of this many letters may be two words in one, of which one has this many
_JOINED, _PART = 5, 4

Meanings = frozenset[str]


class Glossary:
    """What words mean.

    Parameters
    ----------
    more
        Words of a plan's own: for each word those that mean the same.

    Examples
    --------
    >>> words = Glossary({"scum": ["algae cover"]})
    >>> [sorted(meaning) for meaning in words.meanings(("water", "temp"))]
    [['water'], ['temperature']]
    >>> words.meanings(("algae", "cover")) == words.meanings(("scum",))
    True
    """

    def __init__(self, more: Mapping[str, Sequence[str]] | None = None) -> None:
        lines = [*_lines("glossary.txt"), *([word, *others] for word, others in (more or {}).items())]
        found: dict[tuple[str, ...], set[str]] = {}
        for first, *others in lines:
            for entry in (first, *others):
                found.setdefault(tuple(entry.casefold().split()), set()).add(first)
        self._of = {words: frozenset(meanings) for words, meanings in found.items()}
        self._opposed = {
            (one, other) for line in _lines("opposed.txt") for one in line for other in line if one != other
        }
        self._telling = frozenset(one for one, _ in self._opposed)
        self._compounds = {word: tuple(parts.split()) for word, parts in _lines("compounds.txt")}
        self._cache: dict[tuple[str, ...], tuple[Meanings, ...]] = {}
        self._known: dict[Meanings, bool] = {}

    def meanings(self, words: tuple[str, ...]) -> tuple[Meanings, ...]:
        """What each word, or run of words, of a name means; a word that is not known means itself."""
        if words not in self._cache:
            self._cache[words] = tuple(self._read(words))
        return self._cache[words]

    def whole(self, words: tuple[str, ...]) -> Meanings:
        """What a name means as a whole; nothing when it is not known."""
        return self._of.get(words, frozenset())

    def knows(self, meaning: Meanings) -> bool:
        """Whether a meaning is one of the glossary's."""
        if meaning not in self._known:
            self._known[meaning] = any(tuple(each.split()) in self._of for each in meaning)
        return self._known[meaning]

    def tells(self, meaning: Meanings) -> bool:
        """Whether a meaning is one that tells columns apart where another one stands in its place."""
        return any(each in self._telling for each in meaning)

    def are_opposed(self, one: Meanings, other: Meanings) -> bool:
        """Whether two meanings tell columns apart, as minimum and maximum do."""
        return not one & other and any((a, b) in self._opposed for a in one for b in other)

    def _read(self, words: tuple[str, ...]) -> Iterable[Meanings]:
        at = 0
        while at < len(words):
            for size in range(min(_MOST_WORDS, len(words) - at), 0, -1):
                part = words[at : at + size]
                if part in self._of:
                    yield self._of[part]
                    at += size
                    break
            else:
                yield from self._apart(words[at])
                at += 1

    def _apart(self, word: str) -> Iterable[Meanings]:
        """The meanings of the parts of a word that is written as one, such as `watertemp`; else the word itself."""
        made_of = self._compounds.get(word, ())
        for cut in range(len(word) - 2, 1, -1) if len(word) >= _JOINED and not made_of else ():
            if (word[:cut],) in self._of and (word[cut:],) in self._of and max(cut, len(word) - cut) >= _PART:
                made_of = (word[:cut], word[cut:])
                break
        for part in made_of or (word,):
            yield self._of.get((part,), frozenset((part,)))


def _lines(name: str) -> list[list[str]]:
    text = resources.files("integrum.columns.names").joinpath(name).read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")]
    return [[each.strip() for each in line.split(";")] for line in lines]


@lru_cache(maxsize=1)
def formulas() -> frozenset[str]:
    """Words of the glossary with a digit in them, such as `no3`."""
    entries = (entry.casefold() for line in _lines("glossary.txt") for entry in line)
    return frozenset(entry for entry in entries if " " not in entry and any(map(str.isdigit, entry)))


@lru_cache(maxsize=1)
def plain_glossary() -> Glossary:
    """The glossary without words of a plan's own."""
    return Glossary()
