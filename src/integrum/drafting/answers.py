"""What a person can decide about a draft: one class for each kind of decision."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any, ClassVar, get_type_hints

from integrum.errors import PlanError
from integrum.plan.validating import expected
from integrum.plan.wrong_words import meant, nearest
from integrum.problems.problem import counted, visible
from integrum.reading.parts import COMMENT, DATA, DESCRIPTION, FOOTER, HEADER, PREAMBLE, UNITS
from integrum.values.notation import ORDER_WORDS
from integrum.values.types import TYPES

# the parts that a person may say a row is
SAID_PARTS = {
    HEADER: "the header",
    UNITS: "the row of units",
    DESCRIPTION: "a row that describes the columns",
    DATA: "data",
    PREAMBLE: "part of the preamble",
    FOOTER: "the beginning of the footer",
    COMMENT: "a comment",
}


@dataclass(frozen=True)
class Answer:
    """One decision of a person.

    Attributes
    ----------
    about
        Its kind, as a document of decisions has it.
    by
        The fields that say what it is about.
    looks
        Whether it changes what is read of the sources, so that they have to be looked at again.
    """

    about: ClassVar[str]
    by: ClassVar[tuple[str, ...]]
    looks: ClassVar[bool] = False

    def __post_init__(self) -> None:
        hints = get_type_hints(type(self))
        for field in fields(self):
            value, kind = getattr(self, field.name), hints[field.name]
            if kind is int:
                good = isinstance(value, int) and not isinstance(value, bool) and value > 0
                said = "the number of a row, from 1"
            elif kind is bool:
                good, said = isinstance(value, bool), "true or false"
            elif kind is str:
                good = isinstance(value, str) and (bool(value) or field.default == "")
                said = "a text"
            else:
                object.__setattr__(self, field.name, tuple(value) if isinstance(value, list) else value)
                value = getattr(self, field.name)
                good = isinstance(value, tuple) and all(isinstance(one, str) and one for one in value)
                said = "a list of texts"
            if not good:
                raise PlanError(expected(said, value), field.name)

    @property
    def subject(self) -> Hashable:
        """What the decision is about. Of two with the same subject, the later one holds."""
        return self.about, *(getattr(self, name) for name in self.by)

    def __str__(self) -> str:
        raise NotImplementedError

    def as_data(self) -> dict[str, Any]:
        """The decision for a document. Fields with their default are left out."""
        said = asdict(self)
        left = {one.name for one in fields(self) if said[one.name] == one.default}
        return {"about": self.about} | {
            name: list(value) if isinstance(value, tuple) else value
            for name, value in said.items()
            if name not in left
        }


@dataclass(frozen=True)
class SameName(Answer):
    """Whether a header belongs to a column."""

    about: ClassVar[str] = "name"
    by: ClassVar[tuple[str, ...]] = (
        "column",
        "header",
    )
    column: str
    header: str
    same: bool

    def __str__(self) -> str:
        what = "is the same column as" if self.same else "is not the same column as"
        return f'"{self.header}" {what} "{self.column}"'


@dataclass(frozen=True)
class SameValue(Answer):
    """Whether a value is another one in another spelling."""

    about: ClassVar[str] = "value"
    by: ClassVar[tuple[str, ...]] = (
        "column",
        "value",
    )
    column: str
    value: str
    other: str
    same: bool

    def __str__(self) -> str:
        if self.same:
            return f'"{self.value}" is another spelling of "{self.other}" in "{self.column}"'
        return f'"{self.value}" and "{self.other}" are two values in "{self.column}"'


@dataclass(frozen=True)
class TypeOf(Answer):
    """The type of a column."""

    about: ClassVar[str] = "type"
    by: ClassVar[tuple[str, ...]] = ("column",)
    column: str
    type: str

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.type not in TYPES:
            raise PlanError(
                f'"{self.type}" is not a type{meant(self.type, TYPES)}; types are {", ".join(TYPES)}',
                "type",
            )

    def __str__(self) -> str:
        return f'"{self.column}" has the type {self.type}'


@dataclass(frozen=True)
class OrderOf(Answer):
    """The order of day, month and year in the dates of a column; in some sources, where these are named."""

    about: ClassVar[str] = "date-order"
    by: ClassVar[tuple[str, ...]] = (
        "column",
        "sources",
    )
    column: str
    order: str
    sources: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.order not in ORDER_WORDS:
            raise PlanError(f'expected "dmy", "mdy" or "ymd", but got "{self.order}"', "order")

    def __str__(self) -> str:
        where = f" in {self.sources[0]}" if len(self.sources) == 1 else ""
        where = where or (f" in {counted(len(self.sources), 'source')}" if self.sources else "")
        return f'dates in "{self.column}" are {ORDER_WORDS[self.order]}{where}'


@dataclass(frozen=True)
class MissingCode(Answer):
    """Whether a text means "no value"."""

    about: ClassVar[str] = "missing"
    by: ClassVar[tuple[str, ...]] = (
        "column",
        "code",
    )
    column: str
    code: str
    missing: bool

    def __str__(self) -> str:
        what = 'means "no value"' if self.missing else "is a value"
        return f'"{self.code}" {what} in "{self.column}"'


@dataclass(frozen=True)
class UnitOf(Answer):
    """The unit of a column; or of one of its headers."""

    about: ClassVar[str] = "unit"
    by: ClassVar[tuple[str, ...]] = (
        "column",
        "header",
    )
    column: str
    unit: str
    header: str = ""

    def __str__(self) -> str:
        where = f' where the header is "{self.header}"' if self.header else ""
        return f'the unit of "{self.column}" is {self.unit}{where}'


@dataclass(frozen=True)
class KeepColumn(Answer):
    """Whether a column is wanted."""

    about: ClassVar[str] = "column"
    by: ClassVar[tuple[str, ...]] = ("column",)
    column: str
    keep: bool

    def __str__(self) -> str:
        return f'column "{self.column}" is {"kept" if self.keep else "left out"}'


@dataclass(frozen=True)
class KeepSource(Answer):
    """Whether a source is wanted."""

    about: ClassVar[str] = "source"
    by: ClassVar[tuple[str, ...]] = ("source",)
    looks: ClassVar[bool] = True
    source: str
    keep: bool

    def __str__(self) -> str:
        return f"source {self.source} is {'kept' if self.keep else 'left out'}"


@dataclass(frozen=True)
class LinePart(Answer):
    """The part that a row of a source is; it holds for all sources that are laid out in the same way."""

    about: ClassVar[str] = "line"
    by: ClassVar[tuple[str, ...]] = (
        "source",
        "row",
    )
    looks: ClassVar[bool] = True
    source: str
    row: int
    part: str

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.part not in SAID_PARTS:
            raise PlanError(f"expected one of {', '.join(SAID_PARTS)}, but got {self.part}", "part")

    def __str__(self) -> str:
        said = next(said for part, said in SAID_PARTS.items() if part == self.part)
        return f"row {self.row:,} of {self.source} is {said}"


@dataclass(frozen=True)
class RightLayout(Answer):
    """The guessed layout of a source is right."""

    about: ClassVar[str] = "layout"
    by: ClassVar[tuple[str, ...]] = ("source",)
    source: str
    right: bool = True

    def __post_init__(self) -> None:
        super().__post_init__()
        if not self.right:
            raise PlanError("what is wrong about a layout is said by decisions about its lines", "right")

    def as_data(self) -> dict[str, Any]:
        """The decision as a document has it."""
        return {"about": self.about, "source": self.source, "right": True}

    def __str__(self) -> str:
        return f"the layout of {self.source} is right"


@dataclass(frozen=True)
class NamesOfFiles(Answer):
    """The scheme for the names of files, and the one that it replaces."""

    about: ClassVar[str] = "identifiers"
    by: ClassVar[tuple[str, ...]] = ("scheme",)
    looks: ClassVar[bool] = True
    scheme: str
    use: str = ""

    def as_data(self) -> dict[str, Any]:
        """The decision as a document has it."""
        return {"about": self.about, "scheme": self.scheme, "use": self.use}

    def __str__(self) -> str:
        if self.use:
            return f"the names of files become columns: {self.use}"
        return f"the names of files do not become columns: {self.scheme}"


KINDS: Mapping[str, type[Answer]] = {
    kind.about: kind
    for kind in (
        SameName,
        SameValue,
        TypeOf,
        OrderOf,
        MissingCode,
        UnitOf,
        KeepColumn,
        KeepSource,
        LinePart,
        RightLayout,
        NamesOfFiles,
    )
}


def answer_of(said: Any, place: str) -> Answer:
    """Read a decision from a document.

    Raises PlanError when it is none, with its place.

    Examples
    --------
    >>> str(answer_of({"about": "type", "column": "ph", "type": "number"}, "decisions[1]"))
    '"ph" has the type number'
    """
    if not isinstance(said, dict):
        raise PlanError(expected('a decision, such as {"about": "type"}', said), place)
    about = said.get("about")
    if not isinstance(about, str) or about not in KINDS:
        raise PlanError(
            f"{about!r} is not a kind of decision; kinds are {', '.join(KINDS)}", f"{place}.about"
        )
    kind = KINDS[about]
    names = [one.name for one in fields(kind)]
    for name in said:
        if name != "about" and name not in names:
            raise PlanError(
                f'unknown key "{visible(str(name))}"{nearest(str(name), names)}', f"{place} (about {about})"
            )
    try:
        return kind(**{name: value for name, value in said.items() if name != "about"})
    except TypeError as error:
        lacking = [
            one.name
            for one in fields(kind)
            if one.name not in said and not isinstance(one.default, (str, tuple, bool))
        ]
        raise PlanError(f"the key {lacking[0]} is missing", f"{place} (about {about})") from error
    except PlanError as error:
        raise PlanError(error.message, f"{place} (about {about}), key {error.place}") from error


MADE, THERE = "made", "there"


@dataclass(frozen=True)
class Settled:
    """What became of a decision."""

    answer: Answer
    became: str  # ``"made"``; ``"there"`` where the plan says so already; else why it does not fit
    effect: str = ""  # what it has changed, in words, where that can be counted

    @property
    def fits(self) -> bool:
        """Whether it fits the sources and the plan that are there."""
        return self.became in (MADE, THERE)
