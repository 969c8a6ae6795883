"""Where in a plan file the place of an error is: its line number."""

from __future__ import annotations

import re
from collections.abc import Iterator

_TABLE = re.compile(r"\s*(\[\[?)\s*([^\[\]]+?)\s*\]\]?\s*(?:#.*)?")
_KEY = re.compile(r"""\s*(["']?)([\w-]+)\1(?:\.[\w."'-]+)?\s*=""")
_PLACE = re.compile(r"(?:key )?([\w-]+)(?:\[(\d+)\])?")
_INNER = re.compile(r", (layouts?|wide)(?:\[(\d+)\])?(?=,|$)")
# texts in quotes, with escapes in double ones
_TEXTS = re.compile(r"\"(?:[^\"\\]|\\.)*\"|'[^']*'")
_LAST_KEY = re.compile(r"(?:, key |^key |, |\. ?)([\w-]+)(?:[\[.][^,]*)?$")

# a table of the file with its number, and a key in it; the table alone has an empty key
_Spot = tuple[str, str]


def line_of(place: str, text: str) -> int | None:
    """The line that a place of a plan is on.

    Returns the number of the line, from 1: that of the key, else that of its table. None when neither is found.

    `place`: as a `PlanError` gives it, such as ``columns[2] "depth", key type``.

    Examples
    --------
    >>> text = '[[columns]]\\nname = "lake"\\n\\n[[columns]]\\nname = "depth"\\ntype = "nmber"\\n'
    >>> line_of('columns[2] "depth", key type', text), line_of('columns[2] "depth"', text), line_of("rules", text)
    (6, 4, None)
    """
    found = _PLACE.match(place)
    if not found:
        return None
    plain = _TEXTS.sub('""', place)
    key = _LAST_KEY.search(plain)
    name = key[1] if key else ""
    if place.startswith("key "):
        return _first(_spots(text), ("", found[1]), (found[1], ""), (f"{found[1]}[1]", ""))
    table = f"{found[1]}[{found[2]}]" if found[2] else found[1]
    inner = _INNER.search(plain)
    wanted: list[_Spot] = []
    if inner:
        below = f"{table}.{inner[1]}" + (f"[{inner[2]}]" if inner[2] else "")
        wanted += [(below, name), (below, ""), (table, inner[1])]
    keys = [(table, part[1]) for part in re.finditer(r", (?:key )?([\w-]+)", plain)]
    return _first(
        _spots(text),
        *wanted,
        (table, name),
        *reversed(keys),
        (table, ""),
        ("", found[1]),
        (f"{table}[1]", ""),
    )


def _first(spots: dict[_Spot, int], *wanted: _Spot) -> int | None:
    return next((spots[spot] for spot in wanted if spot in spots), None)


def _spots(text: str) -> dict[_Spot, int]:
    """The line of each table and of each key in it; tables in lists are numbered, those below them by their list."""
    found: dict[_Spot, int] = {}
    for number, _, spot in spots_by_line(text):
        if spot is not None:
            found.setdefault(spot, number)
    return found


def spots_by_line(text: str) -> Iterator[tuple[int, str, _Spot | None]]:
    """Each line of a plan file with its number, from 1, and the table or the key that begins on it.

    Examples
    --------
    >>> [(number, spot) for number, _, spot in spots_by_line("# lakes\\n[[columns]]\\nname = 'lake'\\n")]
    [(1, None), (2, ('columns[1]', '')), (3, ('columns[1]', 'name'))]
    """
    counts: dict[str, int] = {}
    table, quote, depth = "", "", 0
    for number, line in enumerate(text.splitlines(), 1):
        spot: _Spot | None = None
        if quote:
            quote = "" if quote in line else quote
            yield number, line, None
            continue
        if depth > 0:
            depth += _opened(line)
            yield number, line, None
            continue
        head = _TABLE.fullmatch(line)
        if head and "=" not in line.partition("#")[0]:
            table = _numbered(head[2].replace(" ", ""), head[1] == "[[", counts)
            spot = (table, "")
        elif key := _KEY.match(line):
            spot = (table, key[2])
            depth = _opened(line)
        quote = next((each for each in ('"""', "'''") if line.count(each) % 2), "")
        yield number, line, spot


def comment_of(line: str) -> str:
    """The comment at the end of a line, without its mark; empty where there is none.

    Examples
    --------
    >>> comment_of('find = "a # b"  # from the north shore'), comment_of('find = "a # b"')
    ('from the north shore', '')
    """
    plain = _TEXTS.sub(lambda found: "_" * len(found[0]), line)
    return line[plain.index("#") + 1 :].strip() if "#" in plain else ""


def _opened(line: str) -> int:
    """How many lists a line opens and does not close."""
    plain = _TEXTS.sub("", line).partition("#")[0]
    return plain.count("[") - plain.count("]")


def _numbered(name: str, is_list: bool, counts: dict[str, int]) -> str:
    outer, dot, last = name.rpartition(".")
    if dot:
        outer = f"{outer}[{counts[outer]}]" if outer in counts else outer
        last = f"{outer}.{last}"
    if not is_list:
        return last
    counts[last] = counts.get(last, 0) + 1
    return f"{last}[{counts[last]}]"
