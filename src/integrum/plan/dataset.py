"""What a plan says of the dataset: title, people, license; and how it names a function of the analyst's own."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from integrum.errors import PlanError
from integrum.plan.fields import HOLDS
from integrum.plan.validating import set_on, text, texts_or
from integrum.plan.wrong_words import fields_answer

_PLACE = re.compile(r"(.+\.py):([^\W\d]\w*)")


@fields_answer
@dataclass(frozen=True)
class Person:
    """Somebody who made the table, or the sources.

    Parameters
    ----------
    name
        The name, or that of an organisation.
    id
        An address that stands for the person, such as that of ORCID.
    affiliation
        Where the person works.

    Raises
    ------
    PlanError
        When a value is not a text.

    Examples
    --------
    >>> Person("Orla Fenwick", affiliation="Lake Office").name
    'Orla Fenwick'
    """

    name: str
    id: str = ""
    affiliation: str = ""

    def __post_init__(self) -> None:
        text(self.name, "name")
        text(self.id, "id", empty=True)
        text(self.affiliation, "affiliation", empty=True)


@fields_answer
@dataclass(frozen=True)
class Dataset:
    """What the table is as a work. It goes into the metadata beside it and into a deposit; it changes nothing in the table.

    Parameters
    ----------
    title
        The title of the table, for its metadata and for an archive.
    description
        What it is, in a few sentences.
    license
        On which terms others may use it: the address of a license, such as
        ``"https://creativecommons.org/licenses/by/4.0/"``, or some words.
    people
        Who made it, as names or `Person`; the first is the author to write to.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Dataset("Water temperature of five lakes", people=["Orla Fenwick"]).persons[0].name
    'Orla Fenwick'
    """

    title: str = ""
    description: str = ""
    license: str = ""
    people: Sequence[str | Person] = field(default=(), metadata={HOLDS: Person})

    def __post_init__(self) -> None:
        for name in ("title", "description", "license"):
            text(getattr(self, name), name, empty=True)
        set_on(self, "people", texts_or(Person, self.people, "people"))
        names = [one.name for one in self.persons]
        twice = next((name for name in names if names.count(name) > 1), "")
        if twice:
            raise PlanError(f'"{twice}" is named twice', "people")

    @property
    def persons(self) -> tuple[Person, ...]:
        """The people, those that are given as names, too."""
        return tuple(Person(one) if isinstance(one, str) else one for one in self.people)


def check_place(text: str) -> tuple[str, str]:
    """Split the place of a function into file and name.

    Raises PlanError when a text does not name a function.

    Examples
    --------
    >>> check_place("steps.py:depth")
    ('steps.py', 'depth')
    """
    found = _PLACE.fullmatch(text)
    if found is None:
        raise PlanError(
            f'expected a file and a function in it, such as "steps.py:depth", got "{text}"', "read"
        )
    return found[1], found[2]


def place_of(function: object) -> str:
    """The place of a function, as a plan writes it.

    Examples
    --------
    >>> place_of(check_place).endswith("dataset.py:check_place")
    True
    """
    place = getattr(function, "place", "")
    code = getattr(function, "__code__", None)
    file = code.co_filename if code else "unknown.py"
    name = re.sub(r"\W", "_", getattr(function, "__name__", type(function).__name__))
    return place or f"{file if file.endswith('.py') else 'unknown.py'}:{name}"
