"""Facts from names: a scheme such as ``{lake}_{month}_{serial}.csv`` held against the end of a path."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from integrum.errors import PlanError

_TOKEN = re.compile(r"\{([^{}]*)\}|([\[\]])|([^{}\[\]]+)|([{}])")
_MOST_READINGS = 10_000


@dataclass(frozen=True)
class Text:
    """Literal text."""

    text: str


@dataclass(frozen=True)
class Slot:
    """A place for an identifier; a `wide` one may contain the text that separates it from the next."""

    name: str
    wide: bool


@dataclass(frozen=True)
class Optional:
    """Parts that a path may lack."""

    parts: tuple[Part, ...]


Part = Text | Slot | Optional


@dataclass(frozen=True)
class Fit:
    """What holding a path against a scheme gave.

    Attributes
    ----------
    values
        The identifiers; an optional one that is absent is empty. None when the path does not fit, or fits
        in more than one way.
    reason
        Why not, naming the first place where the path departs, or the two readings.
    """

    values: dict[str, str] | None
    reason: str = ""


class Scheme:
    """A scheme for the end of paths.

    ``{name}`` is an identifier; ``{name+}`` one that may contain the text that separates it from the next;
    ``[...]`` is a part that may be absent; all else is literal, without regard to capitals. ``/`` separates
    folders, and an identifier never reaches across it.

    Parameters
    ----------
    text
        The scheme.

    Raises
    ------
    PlanError
        When the scheme cannot be read: a bracket that is not closed, no identifier, one named twice.

    Examples
    --------
    >>> scheme = Scheme("{round}/{lake+}_{month}[_{serial}].csv")
    >>> scheme.fit("data/spring/quillon_tarn_2024-05_0417.csv").values
    {'round': 'spring', 'lake': 'quillon_tarn', 'month': '2024-05', 'serial': '0417'}
    >>> scheme.fit("spring/quillon.csv").reason
    '"spring/quillon.csv" departs from the scheme at "quillon.csv", where lake and then "_" was expected'
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self.parts, _ = _parse(list(_TOKEN.finditer(text)), text, 0, nested=False)
        names = list(_names(self.parts))
        if not names:
            raise PlanError(f'the scheme "{text}" has no identifier; write one as {{name}}')
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice:
            raise PlanError(f'the scheme "{text}" names the identifier "{twice}" twice')
        self.names = tuple(names)
        self._levels = text.count("/")

    def fit(self, path: str, accepts: Mapping[str, Callable[[str], bool]] | None = None) -> Fit:
        """Hold a path against the scheme.

        A reading in which fewer parts are absent goes before one in which more are. Then one in which only
        the identifiers marked with ``+`` contain their separator goes before others. If more than one is
        left, the path is ambiguous: that is no guess of ours to make.

        Parameters
        ----------
        path
            With ``/``; only as many of its last parts count as the scheme has.
        accepts
            For some identifiers a function that says whether a text can be a value of it.

        Returns
        -------
        Fit
        """
        end = "/".join(path.split("/")[-1 - self._levels :])
        if path.count("/") < self._levels:
            return Fit(None, f'"{end}" has fewer folders than the scheme')
        farthest = _Farthest(end)
        readings = []
        for values, at, strict, absent in _read(self.parts, end, 0, farthest):
            if at != len(end):
                farthest.note(at, "the end of the name")
                continue
            if accepts and not all(
                not values[name] or test(values[name]) for name, test in accepts.items() if name in values
            ):
                farthest.refused = True
                continue
            readings.append((absent, not strict, values))
            if len(readings) > _MOST_READINGS:
                return Fit(None, f'"{end}" fits the scheme in too many ways')
        if not readings:
            return Fit(None, farthest.reason(end))
        best = min(reading[:2] for reading in readings)
        chosen: list[dict[str, str]] = []
        for absent, loose, values in readings:
            if (absent, loose) == best and values not in chosen:
                chosen.append(values)
        if len(chosen) > 1:
            one, two = (
                ", ".join(f"{name} = {value!r}" for name, value in each.items()) for each in chosen[:2]
            )
            return Fit(None, f'"{end}" fits in more than one way: {one}; or {two}')
        return Fit({name: chosen[0].get(name, "") for name in self.names})


class _Farthest:
    """The text at hand without regard to capitals; how far the best failed reading came, and what was expected there."""

    def __init__(self, end: str) -> None:
        self.at, self.expected, self.refused = -1, "", False
        lower = end.lower()
        self.folded = lower if len(lower) == len(end) else end

    def note(self, at: int, expected: str) -> None:
        if at > self.at:
            self.at, self.expected = at, expected

    def reason(self, end: str) -> str:
        if self.refused and self.at < 0:
            return f'"{end}" fits the scheme, but not the types of its identifiers'
        there = f'at "{end[self.at :]}"' if self.at < len(end) else "at its end"
        return f'"{end}" departs from the scheme {there}, where {self.expected} was expected'


def _parse(tokens: list[re.Match[str]], text: str, at: int, nested: bool) -> tuple[tuple[Part, ...], int]:
    parts: list[Part] = []
    while at < len(tokens):
        name, bracket, literal, brace = tokens[at].groups()
        at += 1
        if name is not None:
            wide = name.endswith("+")
            plain = name.removesuffix("+").strip()
            if not plain:
                raise PlanError(f'the scheme "{text}" has an identifier without a name')
            if parts and isinstance(parts[-1], Slot):
                raise PlanError(
                    f'the scheme "{text}" has "{parts[-1].name}" and "{plain}" side by side; put text between them'
                )
            parts.append(Slot(plain, wide))
        elif literal is not None:
            parts.append(Text(literal))
        elif bracket == "[":
            inner, at = _parse(tokens, text, at, nested=True)
            parts.append(Optional(inner))
        elif bracket == "]" and nested:
            return tuple(parts), at
        else:
            raise PlanError(f'the scheme "{text}" has a "{bracket or brace}" without its partner')
    if nested:
        raise PlanError(f'the scheme "{text}" has a "[" without its partner')
    return tuple(parts), at


def _names(parts: tuple[Part, ...]) -> Iterator[str]:
    for part in parts:
        if isinstance(part, Slot):
            yield part.name
        elif isinstance(part, Optional):
            yield from _names(part.parts)


def _read(
    parts: tuple[Part, ...], end: str, at: int, farthest: _Farthest, before: str = ""
) -> Iterator[tuple[dict[str, str], int, bool, int]]:
    """All readings of the parts from a place on: values, where they end, whether strict, parts absent."""
    if not parts:
        yield {}, at, True, 0
        return
    part, rest = parts[0], parts[1:]
    if isinstance(part, Text):
        if farthest.folded.startswith(part.text.lower(), at):
            yield from _read(rest, end, at + len(part.text), farthest, part.text[-1])
        else:
            farthest.note(at, f'"{part.text}"')
    elif isinstance(part, Optional):
        yield from _read(part.parts + rest, end, at, farthest, before)
        for values, stop, strict, absent in _read(rest, end, at, farthest, before):
            yield values, stop, strict, absent + 1
    else:
        around = {before, *_following(rest)} - {""}
        for stop in _stops(part, rest, end, at, farthest):
            value = end[at:stop]
            strict_here = part.wide or not any(separator in value for separator in around)
            for values, after, strict, absent in _read(rest, end, stop, farthest):
                yield {part.name: value, **values}, after, strict and strict_here, absent


def _stops(slot: Slot, rest: tuple[Part, ...], end: str, at: int, farthest: _Farthest) -> Iterator[int]:
    """Where an identifier that begins here can end."""
    folder = end.find("/", at)
    limit = len(end) if folder < 0 else folder
    if limit == at:
        farthest.note(at, f"the identifier {slot.name}")
        return
    if not rest or not isinstance(rest[0], Text):
        yield from range(at + 1, limit + 1)
        return
    literal = rest[0].text.lower()
    stop = farthest.folded.find(literal, at + 1)
    if not 0 <= stop <= limit:
        farthest.note(at, f'{slot.name} and then "{rest[0].text}"')
    while 0 <= stop <= limit:
        yield stop
        stop = farthest.folded.find(literal, stop + 1)


def _following(rest: tuple[Part, ...]) -> list[str]:
    """The letters that can follow an identifier."""
    found: list[str] = []
    for part in rest:
        if isinstance(part, Text):
            return [*found, part.text[0]]
        if isinstance(part, Slot):
            return found
        found += _following(part.parts)
    return found
