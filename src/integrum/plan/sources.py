"""A group of sources: where they are, what their names say, how they are laid out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from integrum.errors import PlanError
from integrum.plan.fields import AS_TABLES, BAD_VALUES, FACTS, HOLDS, BadValuesHere, DateOrder, Fact
from integrum.plan.layout import Layout
from integrum.plan.scheme import Schemes
from integrum.plan.validating import (
    as_text,
    expectation,
    expected,
    objects,
    one_of,
    pairs,
    places,
    set_on,
    share,
    text,
    texts,
)
from integrum.plan.wide import Wide
from integrum.plan.wrong_words import fields_answer, nearest
from integrum.remote.access import check_access, check_address
from integrum.values.notation import ORDERS


@fields_answer
@dataclass(frozen=True)
class Sources:
    """One group of sources.

    Parameters
    ----------
    find
        Folders (looked through with all their sub-folders), patterns (``*``, ``?``, ``[ab]``, and ``**`` for
        any folders) and files; one text or a list. Relative to the plan file, or to the working folder. Or
        addresses of remote places: ``"s3://bucket/loggers/**/*.csv"``, ``sftp://``, ``https://``.
    exclude
        Patterns of files to skip. A pattern without ``/`` is compared with the file name, a pattern with ``/``
        with the path below the common folder.
    sheets
        Which sheets of workbooks to read: names and patterns; with ``!`` in front, sheets to skip. Without any name or
        pattern to read, all visible sheets are read. A hidden sheet is read only when it is named.
    group
        A name for the group, for the names of outputs.
    ids
        A scheme for the end of the paths, such as ``"{round}/{lake}_{month}[_{serial}].csv"``; each
        ``{name}`` becomes an identifier: a column filled from the path. The name of a sheet is the last part of its path,
        as in ``"{lake}_{year}.xlsx/{month}"``.
    constants
        Identifiers with the same value for the whole group.
    facts
        Identifiers from other facts: ``"folder"`` (name of the parent folder), ``"name"`` (file name without suffix),
        ``"sheet"`` (name of the sheet) or ``"modified"`` (time of the last change of the file, in UTC).
    labels
        Other names for sources, by source name, for the provenance column.
    layout
        Where the parts of the sources are, and how they are written.
    layouts
        Several layouts instead of one. Each source is read with the one that fits it: its text is valid in the encoding,
        the header is where the layout says and has cells that are in the plan, and the rows below have its width. For
        sheets, `first_column` and `last_column` are those of the first layout.
    wide
        Header cells that are values, with a column for each, such as a column for each month. They become rows.
    leave_out
        Headers that are known but not wanted, as names or patterns (``*``, ``?``).
    date_order
        Order of day, month and year in dates of digits, for columns that do not set it: ``"dmy"``, ``"mdy"`` or ``"ymd"``.
    bad_values, bad_share
        As in `Rules`, for these sources.
    expect
        Which sources there should be: a number, a list of paths or names, or values of identifiers (then every
        combination is expected). A missing source is an error.
    undecided
        What a draft could not decide about the layout, in words. A run repeats each as a warning; delete it when it is
        decided.
    access
        For remote places: options of their fsspec file system, such as ``{"endpoint_url": "https://store.example"}``. A
        secret is only named, and stands in the environment: ``{"secret": "$LAKES_SECRET"}``.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Sources("loggers/**/*.csv", ids="{lake}_{month}.csv", constants={"round": "spring"}).identifiers
    ('lake', 'month', 'round')
    """

    find: Sequence[str]
    exclude: Sequence[str] = ()
    sheets: Sequence[str] = ()
    group: str = ""
    ids: str | Sequence[str] = ""
    constants: Mapping[str, str] = field(default_factory=dict)
    facts: Mapping[str, Fact] = field(default_factory=dict)
    labels: Mapping[str, str] = field(default_factory=dict)
    wide: Wide | None = field(default=None, metadata={HOLDS: Wide})
    leave_out: Sequence[str] = ()
    date_order: DateOrder = ""
    bad_values: BadValuesHere = ""
    bad_share: float | None = None
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None
    undecided: Sequence[str] = ()
    access: Mapping[str, str | int | float | bool] = field(default_factory=dict)
    layout: Layout = field(default_factory=Layout, metadata={HOLDS: Layout})
    layouts: Sequence[Layout] = field(default=(), metadata={HOLDS: Layout, AS_TABLES: True})

    def __post_init__(self) -> None:
        set_on(self, "find", places(self.find, "find"))
        set_on(self, "exclude", places(self.exclude, "exclude"))
        if not self.find:
            raise PlanError("expected at least one folder, pattern or file; the list is empty", "find")
        set_on(self, "sheets", texts(self.sheets, "sheets", lone=True))
        text(self.group, "group", empty=True)
        set_on(self, "ids", as_text(self.ids))
        if isinstance(self.ids, str):
            text(self.ids, "ids", empty=True)
        else:
            schemes = texts(self.ids, "ids")
            set_on(self, "ids", schemes[0] if len(schemes) == 1 else schemes or "")
        for name in ("constants", "facts", "labels"):
            set_on(self, name, pairs(getattr(self, name), name))
        for name, fact in self.facts.items():
            one_of(fact, FACTS, f"facts.{name}")
        if self.wide is not None and not isinstance(self.wide, Wide):
            raise PlanError(expected("a Wide", self.wide), "wide")
        set_on(self, "leave_out", texts(self.leave_out, "leave_out", lone=True))
        one_of(self.date_order, ("", *ORDERS), "date_order")
        one_of(self.bad_values, ("", *BAD_VALUES), "bad_values")
        if self.bad_share is not None:
            set_on(self, "bad_share", share(self.bad_share, "bad_share"))
        set_on(self, "expect", expectation(self.expect))
        set_on(self, "undecided", texts(self.undecided, "undecided", lone=True))
        for number, each in enumerate(self.find, 1):
            check_address(each, f"find[{number}]")
        set_on(self, "access", check_access(self.access, "access"))
        try:
            scheme = Schemes(self.schemes).names
        except PlanError as error:
            raise PlanError(error.message, "ids") from None
        if not isinstance(self.layout, Layout):
            raise PlanError(expected("a Layout", self.layout), "layout")
        set_on(self, "layouts", objects(self.layouts, Layout, "layouts"))
        if self.layouts and self.layout != Layout():
            raise PlanError("give either one layout or several layouts", "layout and layouts")
        captured = dict.fromkeys(name for layout in self.possible_layouts for name in layout.capture)
        names = (*scheme, *self.constants, *self.facts, *captured)
        for name in names:
            if names.count(name) > 1:
                raise PlanError(
                    f'the identifier "{name}" is filled twice', "ids, constants, facts and capture"
                )
        if isinstance(self.expect, Mapping):
            for name in self.expect:
                if name not in names:
                    raise PlanError(
                        f'"{name}" is not an identifier of this group{nearest(name, names)}', "expect"
                    )
        set_on(self, "_identifiers", names)

    @property
    def schemes(self) -> tuple[str, ...]:
        """The schemes for its paths."""
        return ((self.ids,) if self.ids else ()) if isinstance(self.ids, str) else tuple(self.ids)

    @property
    def possible_layouts(self) -> tuple[Layout, ...]:
        """The layouts that its sources may have: the one, or all of the several."""
        return tuple(self.layouts) or (self.layout,)

    @property
    def key(self) -> str:
        """What tells this group from the others: its name, or else where its sources are."""
        return self.group or ", ".join(self.find)

    @property
    def identifiers(self) -> tuple[str, ...]:
        """The names of the columns that this group fills from outside the data rows."""
        return tuple(getattr(self, "_identifiers", ()))
