"""How objects look in a notebook: plain HTML that takes the colours of its page, light or dark."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from html import escape

from integrum.problems.problem import visible

# grey and red that can be read on white as on black; everything else is the page's own
_STYLE = """<style>
.integrum {max-width: 100%; overflow-x: auto; line-height: 1.4; font-variant-numeric: tabular-nums}
.integrum .rows {max-height: 25em; max-width: 100%; overflow: auto; margin: .4em 0 .8em}
.integrum table {border-collapse: collapse; margin: 0; font-size: .92em}
.integrum th, .integrum td {text-align: left !important; vertical-align: top; padding: .2em .9em .2em 0;
  border: 0; border-bottom: 1px solid rgba(128, 128, 128, .35); background: none; max-width: 26em;
  overflow-wrap: anywhere; white-space: pre-line}
.integrum th {white-space: nowrap}
.integrum .number {text-align: right !important; white-space: nowrap}
.integrum .error, .integrum .warning, .integrum .note {white-space: nowrap}
.integrum .error {color: #e5484d; font-weight: 600} .integrum .warning {color: #b7791f; font-weight: 600}
.integrum .note, .integrum .dim {color: #808080}
.integrum pre, .integrum .raw {font-family: monospace !important; color: inherit}
.integrum pre {white-space: pre; margin: .4em 0; background: none; font-size: .92em; max-height: 30em; overflow: auto}
.integrum .raw {white-space: pre-wrap}
.integrum h4 {margin: .6em 0 .2em; font-size: 1em; font-weight: 600} .integrum p {margin: .2em 0}
</style>"""
# this many rows of a table are shown
MOST_ROWS = 20


def view(*parts: str) -> str:
    """Put parts together: what a notebook shows of an object.

    Examples
    --------
    >>> view(line("2 rows")).partition("</style>")[2]
    '<div class="integrum"><p>2 rows</p></div>'
    """
    return f'{_STYLE}<div class="integrum">{"".join(parts)}</div>'


def title(text: str) -> str:
    """A heading."""
    return f"<h4>{_safe(text)}</h4>"


def line(text: str, kind: str = "") -> str:
    """A line; of a kind, such as ``"dim"``."""
    return f"<p{_class(kind)}>{_safe(text)}</p>"


def link(target: str, text: str) -> str:
    """A link to a file beside the notebook."""
    from urllib.parse import quote

    return f'<p><a href="{escape(quote(target))}" target="_blank">{_safe(text)}</a></p>'


def plain(text: str) -> str:
    """A text in columns, as a terminal shows it."""
    return f"<pre>{_safe(text)}</pre>"


def folded(label: str, text: str) -> str:
    """A longer text that opens at a click."""
    return f"<details><summary>{_safe(label)}</summary><pre>{_safe(text)}</pre></details>"


def table(
    names: Sequence[str], rows: Iterable[Sequence[object]], most: int = MOST_ROWS, rest: str = ""
) -> str:
    """A table of a bounded height; numbers stand to the right.

    `rows`: its rows; severities of problems have their colours.
    """
    every = list(rows)
    shown = every[:most]
    numeric = [
        bool(shown) and all(isinstance(row[at], (int, float)) for row in shown) for at in range(len(names))
    ]
    kinds = [_class("number" if each else "") for each in numeric]
    head = "".join(f"<th{kind}>{_safe(name)}</th>" for name, kind in zip(names, kinds, strict=True))
    body = "".join(f"<tr>{''.join(map(_cell, row))}</tr>" for row in shown)
    more = len(every) - len(shown)
    after = line(f"{more:,} more{f' in {rest}' if rest else ''}", "dim") if more else ""
    return (
        f'<div class="rows"><table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table></div>{after}'
    )


def bar(label: str, share: float, said: str, after: str) -> str:
    """A bar that is filled as far as a share says, from 0 to 1.

    Examples
    --------
    >>> "width: 25%" in bar("assembling", 0.25, "1 of 4 MB", "2021.csv")
    True
    """
    outer = "display: inline-block; width: 16em; height: .8em; margin: 0 .6em; border-radius: .2em"
    grey, blue = (
        "background: rgba(128, 128, 128, .3)",
        "background: #3b82c4; height: 100%; border-radius: .2em",
    )
    drawn = f'<span style="{outer}; {grey}"><span style="display: block; width: {share:.0%}; {blue}"></span></span>'
    return (
        f'{_STYLE}<div class="integrum"><p>{_safe(label)}{drawn}{share:.0%} &nbsp; {_safe(said)} &nbsp; '
        f'<span class="dim">{_safe(after)}</span></p></div>'
    )


class Raw(str):
    """Text of a source, shown as it is."""


def _cell(value: object) -> str:
    if isinstance(value, Raw):
        return f'<td class="raw">{_safe(value)}</td>'
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        return f'<td class="number">{value:,}</td>'
    text = "" if value is None else str(value)
    return f"<td{_class(text if text in ('error', 'warning', 'note') else '')}>{_safe(text)}</td>"


def _class(kind: str) -> str:
    return f' class="{kind}"' if kind else ""


def _safe(text: str) -> str:
    return escape(visible(text))
