"""Every message is on a list that somebody has read, and none has words that a colleague would not say aloud."""

import re

import pytest

from integrum.problems.codes import CODES
from message_list import LIST, messages

# what was written before, and what to write instead
ODD = {
    r"\babsent\b": "missing",
    r"\bthere twice\b": "duplicate",
    r"\bmend(ed)?\b": "fix",
    r"(?<!there )\b(is|are|was|were) no\b(?! row)": "is not a",
    r"\b(held|hold) against\b": "compared with",
    r"\bwithout regard\b": "ignores",
    r"(?<![\w-])[Ss]ay [`a-z]+ ?=": "set KEY",
    r"\bnobody\b": "name who",
    r"\bclaim(s|ed)? (this|it|them)\b": "in the plan",
    r"; came\b": ", got",
    r"\bat the most\b": "at most",
    r"\b1 (rows|sources|columns|cells|values)\b": "the singular",
    r"\blacks everything\b": "none of them in",
}


def test_the_list_is_complete() -> None:
    """After a change: python tests/message_list.py, and read what has changed."""
    assert LIST.read_text(encoding="utf-8").splitlines() == messages()


@pytest.mark.parametrize("pattern", ODD)
def test_plain_english(pattern: str) -> None:
    found = [
        line
        for line in [*messages(), *(one.meaning for one in CODES.values())]
        if re.search(pattern, line.partition(": ")[2])
    ]
    assert not found, f"write {ODD[pattern]!r}: {found}"
