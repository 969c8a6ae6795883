"""What a wide source is like: header cells that are values of one thing, with a column for each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from integrum.errors import PlanError
from integrum.plan.headers import fits, is_pattern
from integrum.plan.scheme import Scheme
from integrum.plan.validating import one_of, set_on, text, texts
from integrum.plan.words import EMPTY, EmptyCells

# stands for a slash while a header cell is compared with a scheme, which takes slashes for folders
_SLASH = "\u2215"


@dataclass(frozen=True)
class Wide:
    """Headers of a group that become values of a column: each row of the file gives a row for each of them.

    Parameters
    ----------
    headers
        The headers: names and patterns (``*``, ``?``), one or a list; or one scheme, such as
        ``"{measure} {depth} m"``, whose parts become columns.
    name
        The column for the headers; only without a scheme.
    value
        The column for the values. With a scheme it can be a part of it: ``"{measure}"`` gives a column for each measure.
    empty
        An empty cell gives nothing (``"drop"``) or a row without a value (``"keep"``).

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Wide("20??-??", "month", "count").read("2024-05")
    ({'month': '2024-05'}, 'count')
    >>> Wide("{measure} {depth} m", value="{measure}").read("oxygen 5 m")
    ({'depth': '5'}, 'oxygen')
    """

    headers: Sequence[str]
    name: str = ""
    value: str = "value"
    empty: EmptyCells = "drop"

    def __post_init__(self) -> None:
        set_on(self, "headers", texts(self.headers, "headers", lone=True))
        text(self.name, "name", empty=True)
        text(self.value, "value")
        one_of(self.empty, EMPTY, "empty")
        if not self.headers:
            raise PlanError(
                "expected at least one header cell, pattern or scheme; the list is empty", "headers"
            )
        scheme = None
        if any("{" in each for each in self.headers):
            if len(self.headers) > 1:
                raise PlanError(
                    "a scheme cannot be combined with others; give one scheme, or a list of names and patterns",
                    "headers",
                )
            try:
                scheme = Scheme(self.headers[0].replace("/", _SLASH))
            except PlanError as error:
                raise PlanError(error.message, "headers") from None
            if self.name:
                raise PlanError("the parts of the scheme name the columns; remove this key", "name")
            strange = [part for part in _parts(self.value) if part not in scheme.names]
            if strange:
                raise PlanError(f'"{strange[0]}" is not a part of the scheme "{self.headers[0]}"', "value")
        elif not self.name:
            raise PlanError("missing; names the column that takes the headers", "name")
        elif _parts(self.value):
            raise PlanError("there are parts in braces, but headers is not a scheme", "value")
        set_on(self, "_scheme", scheme)

    @property
    def names(self) -> tuple[str, ...]:
        """The columns that take header cells, or parts of them."""
        scheme: Scheme | None = getattr(self, "_scheme", None)
        if scheme is None:
            return (self.name,)
        used = _parts(self.value)
        return tuple(name for name in scheme.names if name not in used)

    @property
    def value_column(self) -> str:
        """The column that takes the values; empty where the header cells name it."""
        return "" if _parts(self.value) else self.value

    def read(self, header: str) -> tuple[dict[str, str], str] | None:
        """What a header cell says: the values of `names`, and the header of its values; None when it is not one of them."""
        scheme: Scheme | None = getattr(self, "_scheme", None)
        if scheme is None:
            said = any(header == each or (is_pattern(each) and fits(header, each)) for each in self.headers)
            return ({self.name: header}, self.value) if said else None
        found = scheme.fit(header.replace("/", _SLASH)).values
        if found is None:
            return None
        parts = {name: value.replace(_SLASH, "/").strip() for name, value in found.items()}
        value = self.value
        for name in _parts(self.value):
            value = value.replace(f"{{{name}}}", parts[name])
        return {name: parts[name] for name in self.names}, value


def _parts(value: str) -> list[str]:
    return [piece.partition("}")[0] for piece in value.split("{")[1:]]
