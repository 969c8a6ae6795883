"""Made-up folders as people have them on their desks, each with the table that is right, and their innocent twins."""

from __future__ import annotations

from collections.abc import Sequence

import desk_kinds  # noqa: F401
import desk_more  # noqa: F401
import desk_twins  # noqa: F401
from desk import KINDS, SUBJECTS, TUNED, UNTUNED, Desk, Maker, TrueColumn

__all__ = ["KINDS", "SUBJECTS", "TUNED", "UNTUNED", "Desk", "TrueColumn", "make_desk"]


def make_desk(name: str, seed: int, subject: Sequence[object]) -> Desk:
    """Make the folder of a kind and a seed."""
    maker = Maker(name, seed, subject)
    KINDS[name](maker)
    return maker.desk
