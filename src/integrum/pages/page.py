"""Write a page: its template, style and script in one file, with small pictures."""

from __future__ import annotations

import json
import re
from base64 import b64encode
from collections.abc import Sequence
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup, escape

from integrum.problems.problem import visible

_MARKS = re.compile(r"[\\`*_{}\[\]<>#|~$]|^[-+](?= )|^\d+(?=[.)] )")
_WIDTH, _HEIGHT, _ROW = 320.0, 64.0, 9.0
# this many sources are drawn on their own; more are put together
MOST = 150
# this many values have a shade of their own
SHADES = 5


@cache
def _environment() -> Environment:
    made = Environment(
        loader=PackageLoader("integrum.pages", "."),
        autoescape=lambda name: name is not None and ".html" in name,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        # nothing on the page commands a terminal that it is printed to, or turns the direction of writing
        finalize=lambda value: visible(value) if type(value) is str else value,
    )
    made.filters["number"] = lambda value: f"{value:,}"
    made.filters["md"] = as_markdown
    # as a script reads it, from an attribute: letters as they are, though none of them can be seen
    made.filters["js"] = json.dumps
    return made


def drawn(template: str, **content: Any) -> str:
    """A template filled with its content."""
    return _environment().get_template(template).render(**content)


def part_of_page(name: str) -> Markup:
    """A style sheet or a script of the room, as it stands."""
    return Markup((Path(__file__).parent / name).read_text(encoding="utf-8"))


def hash_of(text: str) -> str:
    """The hash by which a content security policy knows a style sheet or a script.

    Examples
    --------
    >>> hash_of("a { color: red }")[:14]
    "'sha256-LHvAPI"
    """
    return f"'sha256-{b64encode(sha256(text.encode()).digest()).decode()}'"


def as_markdown(text: str) -> str:
    r"""Escape a text for one line of Markdown.

    Examples
    --------
    >>> as_markdown("Temp_1 [*]")
    'Temp\\_1 \\[\\*\\]'
    """
    return _MARKS.sub(r"\\\g<0>", " ".join(text.split()))


def as_json(content: object) -> Markup:
    r"""Data as JSON that can stand on a page: no letter in it ends the element or begins another.

    Examples
    --------
    >>> str(as_json({"a": "</script>"}))
    '{"a":"\\u003c/script\\u003e"}'
    """
    text = json.dumps(content, ensure_ascii=False, separators=(",", ":"))
    for letter in ("<", ">", "&", "\u2028", "\u2029"):
        text = text.replace(letter, f"\\u{ord(letter):04x}")
    return Markup(text)


def ranges_picture(said: str, count: int, ranges: Sequence[tuple[int, float, float, float]]) -> Markup:
    """A bar from the least to the greatest value of each source, with a mark at the median.

    Parameters
    ----------
    said
        What it shows, for those who do not see it.
    count
        How many sources there are.
    ranges
        The number of a source, the least value, the median and the greatest.

    Examples
    --------
    >>> str(ranges_picture("depth by source", 2, [(0, 1.0, 2.0, 3.0)])).startswith('<svg class="picture" viewBox=')
    True
    """
    if not ranges:
        return Markup("")
    groups = min(count, MOST)
    together: dict[int, tuple[float, float, list[float]]] = {}
    for number, least, median, greatest in ranges:
        at = number * groups // max(count, 1)
        low, high, medians = together.get(at, (least, greatest, []))
        together[at] = (min(low, least), max(high, greatest), [*medians, median])
    bottom = min(low for low, _, _ in together.values())
    top = max(high for _, high, _ in together.values())
    room = (top - bottom) or abs(top) or 1.0
    step = _WIDTH / max(groups, 12)
    bars, marks = [], []
    for at, (low, high, medians) in sorted(together.items()):
        x, wide = at * step + 0.14 * step, 0.72 * step
        y = _down(high, bottom, room)
        tall = max(_down(low, bottom, room) - y, 2.0)
        bars.append(f"M{x:.1f} {y:.1f}h{wide:.1f}v{tall:.1f}h-{wide:.1f}z")
        middle = sorted(medians)[len(medians) // 2]
        marks.append(f"M{x:.1f} {_down(middle, bottom, room) - 0.8:.1f}h{wide:.1f}v1.6h-{wide:.1f}z")
    inner = f'<path class="bar" d="{"".join(bars)}"/><path class="mark" d="{"".join(marks)}"/>'
    return _svg(said, _HEIGHT + 4, inner)


def _down(value: float, bottom: float, room: float) -> float:
    return 2 + _HEIGHT * (1 - (value - bottom) / room)


def filled_picture(said: str, shares: Sequence[float]) -> Markup:
    """A bar for each source, as high as the share of its cells that are filled, from 0 to 1.

    Examples
    --------
    >>> str(filled_picture("day", [1.0, 0.5])).count("M")
    2
    """
    step, height = _WIDTH / max(len(shares), 12), _HEIGHT / 2
    wide = 0.72 * step
    bars = "".join(
        f"M{(at + 0.14) * step:.1f} {height * (1 - share):.1f}h{wide:.1f}v{height * share:.1f}h-{wide:.1f}z"
        for at, share in enumerate(shares)
        if share > 0
    )
    return _svg(said, height, f'<path class="bar" d="{bars}"/>') if bars else Markup("")


def shares_picture(said: str, rows: Sequence[Sequence[int]]) -> Markup:
    """A row for each source, divided by how often its values are there; the last part is for all others.

    `rows`: by source the counts of the same values, at most `SHADES`, and of the rest.

    Examples
    --------
    >>> str(shares_picture("habitat", [[3, 1, 0]])).count("<path")
    2
    """
    drawn: dict[int, list[str]] = {}
    for number, counts in enumerate(rows):
        total = sum(counts)
        x = 0.0
        for at, count in enumerate(counts):
            wide = _WIDTH * count / total if total else 0
            if wide:
                shade = SHADES if at == len(counts) - 1 else at
                drawn.setdefault(shade, []).append(f"M{x:.1f} {number * _ROW:.1f}h{wide:.1f}v7h-{wide:.1f}z")
            x += wide
    paths = "".join(f'<path class="s{shade}" d="{"".join(some)}"/>' for shade, some in sorted(drawn.items()))
    return _svg(said, max(len(rows), 1) * _ROW, paths) if drawn else Markup("")


def _svg(said: str, height: float, inner: str) -> Markup:
    label = escape(visible(said))
    return Markup(
        f'<svg class="picture" viewBox="0 0 {_WIDTH:.0f} {height:.0f}" role="img" aria-label="{label}">{inner}</svg>'
    )
