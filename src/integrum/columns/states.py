"""What becomes of a header cell: every one is in exactly one state."""

from __future__ import annotations

from dataclasses import dataclass

CLAIMED, IN_PART, LEFT_OUT, GUESSED, UNLISTED = (
    "matched",
    "in part",
    "left out",
    "guessed",
    "unlisted",
)


@dataclass(frozen=True)
class Cell:
    """A header cell compared with the plan."""

    position: int  # in the header, from 0
    name: str
    # ``"matched"`` by a column; ``"in part"``: it fills columns together with others, as in wide sources;
    # ``"left out"`` on purpose; ``"guessed"``: it may belong to a column; ``"unlisted"``: the plan does not
    # know it
    state: str
    column: str = ""  # the column that it is for, or may be for; empty where there is none
