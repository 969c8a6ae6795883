"""Write a page that a browser shows from the disk: one file, with nothing loaded from elsewhere."""

from __future__ import annotations

import json
import os
import re
from base64 import b64encode
from contextlib import suppress
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

from blake3 import blake3
from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from integrum.errors import OutputError
from integrum.problems import near, visible

_MARKS = re.compile(r"[\\`*_{}\[\]<>#|~$]|^[-+](?= )|^\d+(?=[.)] )")
_SIGNED = "made by Integrum; BLAKE3 of what stands above:"


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
    """By what a content policy knows a style sheet or a script that stands on the page.

    Examples
    --------
    >>> hash_of("a { color: red }")[:14]
    "'sha256-LHvAPI"
    """
    return f"'sha256-{b64encode(sha256(text.encode()).digest()).decode()}'"


def as_markdown(text: str) -> str:
    r"""A text on one line of Markdown, in which no letter is a mark.

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


def signed(page: str) -> bytes:
    """A page with a last line by which it is known whether somebody has changed it."""
    data = page.encode(errors="backslashreplace")
    return data + f"<!-- {_SIGNED} {blake3(data).hexdigest()} -->\n".encode()


def is_own_page(path: Path) -> bool:
    """Whether a page was made by Integrum, and is as it was made."""
    with suppress(OSError, ValueError):
        data = path.read_bytes()
        start = data.rindex(b"<!-- ")
        return data[start:] == f"<!-- {_SIGNED} {blake3(data[:start]).hexdigest()} -->\n".encode()
    return False


def write_page(path: Path, text: str, replace: bool = False) -> Path:
    """Write a page in one step, over an earlier one.

    Raises OutputError when it cannot be written, or something is in its place that Integrum did not make.

    `replace`: whether a file that was not made by Integrum, or was changed since, may be written over.
    """
    if os.path.lexists(path) and not replace and not is_own_page(path):
        raise OutputError(
            f"{near(path)} exists, and is not as Integrum made it, so it is not written over; move it away, or add "
            "--replace (in Python replace=True) to write over it"
        )
    try:
        unfinished = path.with_name(f".{path.name}.new")
        unfinished.write_bytes(signed(text))
        unfinished.replace(path)
    except OSError as error:
        raise OutputError(f"cannot write {path}: {error.strerror}") from error
    return path
