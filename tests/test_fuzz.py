"""Three hundred damaged folders under written plans, against a reading that shares no code with the library."""

import pytest

import independent
import integrum as ig
from damage import WAYS, case
from fuzz import check

BLOCK = 25


@pytest.mark.parametrize("first", range(0, 300, BLOCK))
def test_damaged_folders_come_out_as_an_independent_reading_says(first: int) -> None:
    wrong = {seed: said for seed in range(first, first + BLOCK) if (said := check(seed))}
    assert not wrong


def test_the_cases_of_the_suite_use_every_way_of_damage_and_give_rows() -> None:
    cases = [case(seed) for seed in range(300)]
    assert len(WAYS) >= 40
    assert {way for one in cases for way in one.ways} >= set(WAYS)
    read = [independent.read(data, one.plan) for one in cases for data in one.files.values()]
    assert sum(len(one.rows) for one in read) > 1000
    assert sum(len(one.aside) for one in read) > 300
    parts = {part for one in read for part, count in one.ledger.items() if count}
    assert parts == {"rows", *independent.PARTS}


def test_the_independent_reading_notices_a_wrong_cell(monkeypatch) -> None:
    monkeypatch.setattr(independent, "converted", lambda text, kind: text + "!")
    assert any(check(seed) for seed in range(10))


def test_the_independent_reading_notices_a_lost_row(monkeypatch) -> None:
    read = independent.read

    def with_one_more(data: bytes, plan: ig.Plan) -> independent.Expected:
        expected = read(data, plan)
        expected.rows += expected.rows[:1]
        return expected

    monkeypatch.setattr(independent, "read", with_one_more)
    assert any(check(seed) for seed in range(10))
