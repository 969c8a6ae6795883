"""What the docs say of a problem, by its code: read from the package, without a network."""

from __future__ import annotations

import re
from pathlib import Path

# in a package the page of the docs lies beside this file; in a clone it lies in its docs
_PAGES = (Path(__file__).with_name("problems.md"), Path(__file__).parents[3] / "docs" / "problems.md")
_LINK = re.compile(r"\[([^\]]*)\]\([^)]*\)")


def section_of(code: str) -> str:
    r"""What a problem means, what to do about it, and an example, as plain text.

    Raises KeyError when the docs have no such section.

    Examples
    --------
    >>> print(section_of("name-not-unicode"))
    name-not-unicode
    <BLANKLINE>
    A name that is not valid Unicode. It is shown with escapes, and the file is read.
    <BLANKLINE>
    To fix it: Rename the file.
    <BLANKLINE>
        note: m\xe4rz.csv: its name is not valid Unicode and is shown with escapes [name-not-unicode]
    """
    page = next(one for one in _PAGES if one.is_file()).read_text(encoding="utf-8")
    found = re.search(rf"^### {re.escape(code)}\n(.*?)(?=^##|\Z)", page, re.MULTILINE | re.DOTALL)
    if found is None:
        raise KeyError(code)
    lines = [
        line if line.startswith("    ") else _LINK.sub(r"\1", line).replace("`", "").replace("*", "")
        for line in found[1].strip("\n").split("\n")
    ]
    return "\n".join([code, "", *lines])
