"""Whether the glossary knows two names as a whole, and as one or as two things."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known


def weigh_synonyms(one: Known, other: Known, setting: Setting) -> Finding:
    """Look two names up in the glossary.

    Examples
    --------
    >>> weigh_synonyms(Known(("DO",), 1), Known(("Dissolved Oxygen",), 2), Setting(2)).figures
    (1.0, 0.0, 0.0)
    >>> weigh_synonyms(Known(("nitrate",), 1), Known(("nitrite",), 2), Setting(2)).figures
    (0.0, 1.0, 1.0)
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0, 0.0, 0.0))
    pairs = [
        (setting.glossary.whole(a), setting.glossary.whole(b)) for a in one.all_words for b in other.all_words
    ]
    same = any(a & b for a, b in pairs)
    apart = not same and any(a and b for a, b in pairs)
    understood = not same and all(
        _understood(a, b, setting) for a in one.all_words[:1] for b in other.all_words[:1]
    )
    return Finding((float(same), float(apart), float(understood)), "synonyms in the glossary" if same else "")


def _understood(words: tuple[str, ...], others: tuple[str, ...], setting: Setting) -> bool:
    """Whether each word of two names is known, and each name has one that the other has not."""
    mine, theirs = setting.glossary.meanings(words), setting.glossary.meanings(others)
    if not all(setting.glossary.knows(each) for each in (*mine, *theirs)):
        return False
    return any(not any(a & b for b in theirs) for a in mine) and any(
        not any(a & b for a in mine) for b in theirs
    )


SYNONYMS = Evidence(("synonyms", "known as two things", "understood as two things"), weigh_synonyms)
