"""Facts from names: a scheme such as ``{lake}_{month}_{serial}.csv`` compared with the end of a path."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from integrum.errors import PlanError
from integrum.values.written.absent import MONTHS

_TOKEN = re.compile(r"\{([^{}]*)\}|([\[\]])|([^{}\[\]]+)|([{}])")
_MOST_PARTS, _MOST_NESTED = 100, 10


@dataclass(frozen=True)
class Text:
    """Literal text."""

    text: str


@dataclass(frozen=True)
class Slot:
    """A place for an identifier; a `wide` one may contain the text that separates it from the next."""

    name: str
    wide: bool
    looks: str = ""  # what it looks like, where that has to be known: a regular expression


@dataclass(frozen=True)
class Any:
    """Any text within a folder, or none."""


@dataclass(frozen=True)
class Optional:
    """Parts that a path may lack."""

    parts: tuple[Part, ...]


Part = Text | Slot | Any | Optional
Accepts = Mapping[str, Callable[[str], bool]]
# identifiers and their values, in order
Values = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Fit:
    """What comparing a path with a scheme gave."""

    # the identifiers; an optional one that is missing is empty. None when the path does not fit, or fits in
    # more than one way.
    values: dict[str, str] | None
    reason: str = ""  # why not, naming the first place where the path departs, or the two readings
    came: int = 0  # how far a path that does not fit agrees with the scheme


class Scheme:
    """A scheme for the end of paths.

    ``{name}`` is an identifier; ``{name+}`` one that may contain the text that separates it from the next;
    ``[...]`` is a part that may be absent; ``*`` is any text or none; all else is literal, without regard to capitals. ``/``
    separates folders, and an identifier never reaches across it. Beside a ``*`` only an identifier can stand whose name says
    what it looks like: a year, a month, a date, a quarter, a week, a day or a number.

    `known`: whether any identifier of such a name looks as its name says.

    Raises PlanError when the scheme cannot be read: a bracket that is not closed, no identifier, one named twice; or
    it has more than 100 parts, or brackets more than 10 deep.

    Examples
    --------
    >>> scheme = Scheme("{round}/{lake+}_{month}[_{serial}].csv")
    >>> scheme.fit("data/spring/quillon_tarn_2024-05_0417.csv").values
    {'round': 'spring', 'lake': 'quillon_tarn', 'month': '2024-05', 'serial': '0417'}
    >>> Scheme("*{year}*.csv").fit("final/counts 2024 checked.csv").values
    {'year': '2024'}
    >>> scheme.fit("spring/quillon.csv").reason
    '"spring/quillon.csv" does not fit the scheme: expected lake and then "_" at "quillon.csv"'
    """

    def __init__(self, text: str, known: bool = False) -> None:
        self.text = text
        tokens = list(_TOKEN.finditer(text))
        if len(tokens) > _MOST_PARTS:
            raise PlanError(f"a scheme has at most {_MOST_PARTS} parts; this one has {len(tokens):,}")
        parts, _ = _parse(tokens, text, 0, 0)
        self.parts = tuple(map(_as_named, parts)) if known else parts
        self._start = _chain(self.parts, None)
        names = list(_names(self.parts))
        if not names:
            raise PlanError(f'the scheme "{text}" does not have an identifier; write one as {{name}}')
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice:
            raise PlanError(f'the scheme "{text}" names the identifier "{twice}" twice')
        self.names = tuple(names)
        self._levels = text.count("/")

    def fit(self, path: str, accepts: Accepts | None = None) -> Fit:
        """Compare a path with the scheme.

        A reading in which fewer parts are missing goes before one in which more are. Then one in which fewer identifiers
        contain the text that separates them goes before others; those marked with ``+`` may contain it. If more than one
        is left, the path is ambiguous, and is not guessed.

        Parameters
        ----------
        path
            With ``/``; only as many of its last parts count as the scheme has.
        accepts
            For some identifiers a function that says whether a text can be a value of it.
        """
        end = "/".join(path.split("/")[-1 - self._levels :])
        if path.count("/") < self._levels:
            return Fit(None, f'"{end}" has fewer folders than the scheme')
        reader = _Reader(end, accepts or {})
        chosen = reader.best(self._start)
        if not chosen:
            return Fit(None, reader.reason(), reader.came)
        if len(chosen) > 1:
            return Fit(None, _in_two_ways(end, *chosen[:2]))
        values = dict(chosen[0])
        return Fit({name: values.get(name, "") for name in self.names})


def _in_two_ways(end: str, one: Values, two: Values) -> str:
    said = "; or ".join(", ".join(f"{name} = {value!r}" for name, value in each) for each in (one, two))
    other = dict(two)
    name = next((name for name, value in one if other.get(name) != value), "")
    remedy = f"; write {{{name}+}} for the identifier that may contain its separator" if name else ""
    return f'"{end}" fits in more than one way: {said}{remedy}'


@dataclass(frozen=True)
class _Best:
    """The best readings of the rest of a path, at most two."""

    absent: int  # how many parts are missing in them
    # how many identifiers contain the text that separates them from their neighbours, without being marked
    # with ``+``
    loose: int
    readings: tuple[Values, ...]
    skipped: int = 0  # how many letters are any text

    def joined(self, other: _Best) -> _Best:
        """The best of two: fewer missing parts go first, then fewer separators in identifiers, then less of any text."""
        own, its = (self.absent, self.loose, self.skipped), (other.absent, other.loose, other.skipped)
        if own != its:
            return self if own < its else other
        return replace(self, readings=tuple(dict.fromkeys(self.readings + other.readings))[:2])

    def behind(self, name: str, value: str, strict: bool) -> _Best:
        """The same readings behind the value of an identifier."""
        here = ((name, value),)
        readings = tuple(here + rest for rest in self.readings)
        return replace(self, loose=self.loose + (not strict), readings=readings)


@dataclass(frozen=True, eq=False)
class _Link:
    """A part, and what comes behind it."""

    part: Part
    then: _Link | None  # what comes behind it; None is the end
    inner: _Link | None  # what an optional part begins with, up to the end of all
    begins: frozenset[str]  # the texts that it can begin with, as far as they are given


def _chain(parts: tuple[Part, ...], then: _Link | None) -> _Link | None:
    for part in reversed(parts):
        inner = _chain(part.parts, then) if isinstance(part, Optional) else None
        begins = frozenset({part.text} if isinstance(part, Text) else ())
        if isinstance(part, Optional):
            begins = begins.union(*(link.begins for link in (inner, then) if link))
        then = _Link(part, then, inner, begins)
    return then


class _Reader:
    """Reads the end of a path; each place is looked at once for each part that can begin there."""

    def __init__(self, end: str, accepts: Accepts) -> None:
        self._end, self._accepts = end, accepts
        lower = end.lower()
        self._folded = lower if len(lower) == len(end) else end
        self._known: dict[tuple[_Link | None, int, str], _Best | None] = {}
        # how far the best failed reading came, and what was expected there
        self._at, self._expected, self._refused = -1, "", False

    def best(self, link: _Link | None) -> tuple[Values, ...]:
        """The best reading; more than one where none is the best, and none where the path does not fit."""
        found = self._rest(link, 0, "")
        return found.readings if found else ()

    @property
    def came(self) -> int:
        """How far the best reading that failed has come."""
        return max(self._at, 0)

    def reason(self) -> str:
        """Why the path does not fit."""
        if self._refused and self._at < 0:
            return f'"{self._end}" fits the scheme, but not the types of its identifiers'
        there = "" if not self._at else f' at "{self._end[self._at :]}"'
        there = there if self._at < len(self._end) else " at its end"
        return f'"{self._end}" does not fit the scheme: expected {self._expected}{there}'

    def _note(self, at: int, expected: str) -> None:
        if at > self._at:
            self._at, self._expected = at, expected

    def _rest(self, link: _Link | None, at: int, before: str) -> _Best | None:
        """The best readings of all from a place on, up to the end."""
        key = (link, at, before)
        if key not in self._known:
            self._known[key] = self._read(link, at, before)
        return self._known[key]

    def _read(self, link: _Link | None, at: int, before: str) -> _Best | None:
        if link is None:
            if at == len(self._end):
                return _Best(0, 0, ((),))
            self._note(at, "the end of the name")
            return None
        part = link.part
        if isinstance(part, Text):
            if self._folded.startswith(part.text.lower(), at):
                return self._rest(link.then, at + len(part.text), part.text)
            self._note(at, f'"{part.text}"')
            return None
        if isinstance(part, Any):
            return self._any(link.then, at)
        if isinstance(part, Optional):
            there, absent = self._rest(link.inner, at, before), self._rest(link.then, at, before)
            absent = absent and replace(absent, absent=absent.absent + 1)
            return there.joined(absent) if there and absent else there or absent
        return self._slot(part, link.then, at, before)

    def _any(self, then: _Link | None, at: int) -> _Best | None:
        folder = self._end.find("/", at)
        best: _Best | None = None
        for stop in range(at, (len(self._end) if folder < 0 else folder) + 1):
            if following := self._rest(then, stop, ""):
                following = replace(following, skipped=following.skipped + stop - at)
                best = best.joined(following) if best else following
        return best

    def _slot(self, slot: Slot, then: _Link | None, at: int, before: str) -> _Best | None:
        around = {before, *(then.begins if then else ())} - {""}
        accepts = self._accepts.get(slot.name)
        best: _Best | None = None
        for stop in self._stops(slot, then, at):
            following = self._rest(then, stop, "")
            if not following:
                continue
            value = self._end[at:stop]
            if slot.looks and not self._looks(slot, at, stop):
                continue
            if accepts and not accepts(value):
                self._refused = True
                continue
            lower = value.lower()
            strict = slot.wide or not any(separator.lower() in lower for separator in around)
            found = following.behind(slot.name, value, strict)
            best = best.joined(found) if best else found
        return best

    def _looks(self, slot: Slot, at: int, stop: int) -> bool:
        """Whether a value beside any text looks as its name says, and is all of the digits that stand there."""
        if not re.fullmatch(slot.looks, self._end[at:stop], re.IGNORECASE):
            self._note(at, f"the identifier {slot.name}")
            return False
        before, behind = self._end[at - 1 : at], self._end[stop : stop + 1]
        return not (before.isdigit() and self._end[at].isdigit()) and not (
            behind.isdigit() and self._end[stop - 1].isdigit()
        )

    def _stops(self, slot: Slot, then: _Link | None, at: int) -> Iterator[int]:
        """Where an identifier that begins here can end."""
        folder = self._end.find("/", at)
        limit = len(self._end) if folder < 0 else folder
        if limit == at:
            self._note(at, f"the identifier {slot.name}")
            return
        if then is None:
            yield limit
            return
        if not isinstance(then.part, Text):
            yield from range(at + 1, limit + 1)
            return
        literal = then.part.text.lower()
        stop = self._folded.find(literal, at + 1)
        if not 0 <= stop <= limit:
            self._note(at, f'{slot.name} and then "{then.part.text}"')
        while 0 <= stop <= limit:
            yield stop
            stop = self._folded.find(literal, stop + 1)


def _parse(tokens: list[re.Match[str]], text: str, at: int, depth: int) -> tuple[tuple[Part, ...], int]:
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
            if parts and isinstance(parts[-1], Any):
                parts.append(_beside_any(plain, wide, text))
            else:
                parts.append(Slot(plain, wide))
        elif literal is not None:
            for piece in re.split(r"(\*+)", literal):
                if not piece:
                    continue
                if piece[0] != "*":
                    parts.append(Text(piece))
                    continue
                last = parts[-1] if parts else None
                if isinstance(last, Slot) and not last.looks:
                    parts[-1] = _beside_any(last.name, last.wide, text)
                parts.append(Any())
        elif bracket == "[":
            if depth == _MOST_NESTED:
                raise PlanError(f'the scheme "{text}" has brackets more than {_MOST_NESTED} levels deep')
            inner, at = _parse(tokens, text, at, depth + 1)
            parts.append(Optional(inner))
        elif bracket == "]" and depth:
            return tuple(parts), at
        else:
            raise PlanError(f'the scheme "{text}" has an unmatched "{bracket or brace}"')
    if depth:
        raise PlanError(f'the scheme "{text}" has an unmatched "["')
    return tuple(parts), at


_MARK, _WORDS = r"[-_. /\u2215]", "|".join(sorted(MONTHS, key=len, reverse=True))
_MONTH = "(0[1-9]|1[0-2])"
# what identifiers of these names look like
_LOOKS = {
    "date": rf"(19|20)\d\d{_MARK}?[01]\d{_MARK}?[0-3]\d|[0-3]?\d{_MARK}[0-3]?\d{_MARK}(19|20)\d\d",
    "month": rf"(19|20)\d\d{_MARK}?{_MONTH}|{_MONTH}({_MARK}(19|20)\d\d)?|({_WORDS})\.?({_MARK}?(19|20)\d\d)?"
    rf"|(19|20)\d\d{_MARK}?({_WORDS})",
    "year": r"(19|20)\d\d",
    "quarter": rf"((19|20)\d\d{_MARK}?)?q[1-4]({_MARK}?(19|20)\d\d)?",
    "depth": r"\d+([.,]\d+)?",
    "week": r"w?\d\d?",
    "day": r"[0-3]?\d",
}
_NUMBERED = r"\d+"
_NUMBERS = ("number", "no", "nr", "serial", "id", "round", "wave", "batch", "part", "run")


def looks_of(name: str) -> str:
    """What a part of a scheme with this name looks like, as a regular expression; empty where it can be anything."""
    return _LOOKS.get(name.lower(), "")


def _as_named(part: Part) -> Part:
    """A part that looks as its name says, where that is known."""
    if isinstance(part, Optional):
        return Optional(tuple(map(_as_named, part.parts)))
    if isinstance(part, Slot):
        return replace(part, looks=part.looks or looks_of(part.name))
    return part


def _beside_any(name: str, wide: bool, text: str) -> Slot:
    looks = looks_of(name) or (_NUMBERED if name.lower() in _NUMBERS else "")
    if not looks:
        raise PlanError(
            f'the scheme "{text}" has "{name}" right beside "*"; put text between them, or name what it is: '
            f"{', '.join((*_LOOKS, 'number'))}"
        )
    return Slot(name, wide, looks)


class Schemes:
    """Several schemes; the first that a path fits is the one that holds.

    Raises PlanError when one cannot be read.

    Examples
    --------
    >>> schemes = Schemes(["{lake}_{year}.csv", "{year}/{lake}.csv"])
    >>> schemes.fit("2024/amber.csv").values, schemes.names
    ({'year': '2024', 'lake': 'amber'}, ('lake', 'year'))
    """

    def __init__(self, texts: Sequence[str]) -> None:
        self.every = tuple(map(Scheme, texts))
        self.names = tuple(dict.fromkeys(name for one in self.every for name in one.names))

    def __bool__(self) -> bool:
        return bool(self.every)

    @property
    def text(self) -> str:
        """All of them, in words."""
        return '" or "'.join(one.text for one in self.every)

    def fit(self, path: str, accepts: Accepts | None = None) -> Fit:
        """Compare a path with them; why not is said of the nearest."""
        fits = [one.fit(path, accepts) for one in self.every]
        good = next((one for one in fits if one.values is not None), None)
        return good or max(fits, key=lambda one: one.came)


def _names(parts: tuple[Part, ...]) -> Iterator[str]:
    for part in parts:
        if isinstance(part, Slot):
            yield part.name
        elif isinstance(part, Optional):
            yield from _names(part.parts)
