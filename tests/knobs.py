"""The constants of the library that tests turn, so that small data meets the limits of large ones: each with its places."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from typing import Any
from unittest import mock

import pytest

# what a test calls it: the module, and the name of the constant there; several where modules have taken it over
KNOBS = {
    # reading
    "piece": ("reading.cutting.PIECE",),
    "block": ("reading.cutting._BLOCK",),
    "job": ("dispatch.spreading.PIECE", "dispatch.feed.PIECE"),
    "fed": ("dispatch.feed.PIECE",),
    "pieces_in_a_job": ("dispatch.feed._TOGETHER",),
    "stretch": ("dispatch.spreading.STRETCH",),
    "letters_at_a_time": ("reading.stream._CHUNK",),
    "longest_record": ("reading.head.LONGEST_RECORD",),
    "later_look": ("reading.head._LATER_LOOK",),
    "kept_above": ("reading.head._SHORT",),
    # places
    "free_bytes": ("sources.packing.FREE_BYTES",),
    "free_bytes_of_books": ("workbooks.recognise.FREE_BYTES",),
    "pseudo_folders": ("sources.find._PSEUDO",),
    "pauses": ("remote.files.PAUSES",),
    "fetched_whole": ("remote.files._WHOLE",),
    "patience_for_workers": ("workers.elsewhere._PATIENCE",),
    "patience_for_the_swap": ("publish.swap._PATIENCE",),
    # workbooks
    "letters_of_a_book": ("workbooks.scanned.MOST_LETTERS", "workbooks.xlsx.MOST_LETTERS"),
    "cells_of_a_book": ("workbooks.scanned.MOST_CELLS",),
    "bytes_of_xlsx": ("workbooks.xlsx._CHUNK",),
    "rows_of_a_sheet": ("writing.workbook.MOST_ROWS",),
    "columns_of_a_sheet": ("writing.workbook.LAST_COLUMN",),
    "letters_of_a_cell": ("writing.workbook.MOST_LETTERS",),
    # what lies on the disk once there is much of it
    "rows_of_a_block": ("writing.typed._MOST_ROWS",),
    "problems_in_memory": ("problems.found.MOST",),
    "problems_at_a_time": ("problems.found._TOGETHER",),
    "rows_set_aside_in_memory": ("measures.set_aside.MOST",),
    "figures_in_memory": ("measures.values.MOST",),
    "figures_at_a_time": ("measures.values._TOGETHER",),
    "values_sketched": ("measures.values._VALUES",),
    "categories_in_memory": ("measures.categories.MOST_KEPT",),
    "spilled_at_a_time": ("values.spill._LET_GO",),
}


def turn(monkeypatch: pytest.MonkeyPatch, **values: Any) -> None:
    """Set some of them until the test ends."""
    for name, value in values.items():
        for place in KNOBS[name]:
            monkeypatch.setattr(f"integrum.{place}", value)


@contextmanager
def turned(**values: Any) -> Iterator[None]:
    """Set some of them for a while, outside of a test."""
    with ExitStack() as patches:
        for name, value in values.items():
            for place in KNOBS[name]:
                patches.enter_context(mock.patch(f"integrum.{place}", value))
        yield
