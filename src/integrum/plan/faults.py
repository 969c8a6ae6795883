"""What is wrong with the text of a plan file that is not valid TOML, and what to write instead."""

from __future__ import annotations

import re
import tomllib

from integrum.problems import clipped

_BACKSLASH = 'a backslash in double quotes has a special meaning; write paths with "/", or in single quotes'
# what the parser says, and what that means for somebody who writes a plan
_MEANINGS = (
    ("Cannot overwrite a value", "{key} is set twice in the same table; remove one of them"),
    ("Duplicate inline table key", "a key is set twice in the same braces; remove one of them"),
    ("Unescaped '\\' in a string", _BACKSLASH),
    ("Invalid hex value", _BACKSLASH),
    ("Escaped character is not", _BACKSLASH),
    ("twice", "this table is set twice; write it once, or in double brackets [[...]] for a list of tables"),
    (
        "Cannot mutate immutable",
        "this adds to a table or list that is complete; write all of it in one place",
    ),
    ("Cannot overwrite a", "this table or key has the name of an earlier one; remove one of them"),
    ("Unterminated string", "a quote is not closed"),
    ("Illegal character '\\n'", "a quote is not closed on its line"),
    ("Illegal character", "a control character; remove it"),
    ("Unclosed array", 'a list is not closed; add "]"'),
    ("Unclosed inline table", 'braces are not closed; add "}"'),
    ("Expected '=' after a key", 'expected "=" after the key, as in  name = "depth"'),
    ("Expected newline or end of document", "expected the end of the line; are quotes or a comma missing?"),
    ("Invalid value", 'expected a value after "=": a text in quotes, a number, true, false, or a list'),
    ("Expected ']'", 'a table name is not closed; add "]"'),
    (
        "Invalid initial character for a key part",
        "expected a key; put quotes around a key with spaces or signs",
    ),
    ("Invalid statement", "expected  key = value  or a table such as [[columns]]"),
)
_AT = re.compile(r" \(at (?:line (\d+), column (\d+)|end of document)\)$")


def explained(error: tomllib.TOMLDecodeError, text: str) -> tuple[str, int]:
    """What is wrong, in words, and the number of the line; 0 where that is not known.

    Examples
    --------
    >>> text = 'integrum = 1\\n[[sources]]\\nfind = "d\\\\a.csv"\\n'
    >>> try:
    ...     _ = tomllib.loads(text)
    ... except tomllib.TOMLDecodeError as error:
    ...     message, line = explained(error, text)
    >>> line, message.partition(": ")[0]
    (3, 'not valid TOML')
    """
    lines = text.splitlines() or [""]
    said = str(error)
    at = _AT.search(said)
    number = int(at[1]) if at and at[1] else len(lines)
    said = _AT.sub("", said)
    line = lines[min(number, len(lines)) - 1].strip()
    key = line.partition("=")[0].strip()
    if line.startswith("["):
        said = said.replace("Cannot overwrite a value", "Cannot overwrite a table")
    meaning = next((words for start, words in _MEANINGS if start in said), said).replace("{key}", key)
    if said.startswith("Un") and not (at and at[1]) and len(lines) > 1:
        return f"not valid TOML: {meaning}", 0  # it may have begun anywhere
    return f"not valid TOML: {meaning}; the line is: {clipped(line)}", number
