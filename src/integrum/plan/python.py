"""A plan as a Python script that does the same, with the comments of its file."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields, is_dataclass
from pathlib import PurePath
from typing import Any

from integrum.plan.dataset import place_of
from integrum.plan.fields import AS_TABLES, HOLDS, key_of_field
from integrum.plan.lines import comment_of, spots_by_line
from integrum.plan.model import PlanParts
from integrum.plan.toml import LISTS, PARTS, default_of, is_table

_WIDTH, _STEP = 88, "    "
# comment lines by the table of the plan file and the key in it; an empty key is the table itself
Comments = Mapping[tuple[str, str], Sequence[str]]
_END = ("", "end")


@dataclass(frozen=True)
class _Node:
    """A piece of Python: a text, or parts between brackets, each with the comments above it."""

    text: str = ""
    opening: str = ""
    closing: str = ""
    parts: Sequence[tuple[Sequence[str], str, _Node]] = field(default_factory=list)

    @property
    def flat(self) -> str:
        """All of it on one line; empty where comments stand in it."""
        if not self.opening:
            return self.text
        said = []
        for comments, name, node in self.parts:
            flat = node.flat
            if comments or not flat:
                return ""
            said.append(name + flat)
        return f"{self.opening}{', '.join(said)}{self.closing}"

    def lines(self, indent: str, name: str, end: str, whole: bool = False) -> list[str]:
        """The lines of it, one below the other where they are too long for one."""
        flat = self.flat
        if not self.opening or (not whole and flat and len(indent + name + flat + end) <= _WIDTH):
            return [f"{indent}{name}{flat}{end}"]
        found = [f"{indent}{name}{self.opening}"]
        for comments, key, node in self.parts:
            found += [f"{indent}{_STEP}# {line}".rstrip() for line in comments]
            found += node.lines(indent + _STEP, key, ",")
        return [*found, f"{indent}{self.closing}{end}"]


def plan_as_python(plan: PlanParts, text: str = "", table: str = "table.csv", name: str = "") -> str:
    """Give a plan as a Python script that assembles the same table.

    Returns the script. It is run as ``python make_table.py [TABLE]``.

    Parameters
    ----------
    plan
        The plan; its relative paths mean: relative to the folder of the script.
    table
        The name of the table that the script writes when it is given no other.

    Examples
    --------
    >>> from integrum.plan.from_toml import parse_plan
    >>> text = '''integrum = 1
    ... [[sources]]
    ... find = ["loggers/*.csv"]
    ... # the sensor at the outlet
    ... [[columns]]
    ... name = "depth"
    ... type = "number"
    ... '''
    >>> print(plan_as_python(parse_plan(text), text))  # doctest: +ELLIPSIS
    \"\"\"Assemble one table from many files...
    plan = ig.Plan(
        sources=[
            ig.Sources("loggers/*.csv"),
        ],
        columns=[
            # the sensor at the outlet
            ig.Column("depth", "number"),
        ],
    )
    ...
    """
    comments = comments_of(text)
    parts: list[tuple[Sequence[str], str, _Node]] = []
    for part in PARTS:
        value = getattr(plan, part.name)
        if part.name in LISTS:
            if value:
                items = [
                    _object(one, f"{part.name}[{number}]", comments) for number, one in enumerate(value, 1)
                ]
                parts.append(((), f"{part.name}=", _Node(opening="[", closing="]", parts=items)))
        elif is_dataclass(value):
            if value != part.metadata[HOLDS]():
                said, _, node = _object(value, part.name, comments)
                parts.append((said, f"{part.name}=", node))
        elif value != default_of(part):
            said = [*comments.get(("", part.name), ()), *comments.get((part.name, ""), ())]
            parts.append((said, f"{part.name}=", _value(value)))
    whole = _Node(
        opening="ig.Plan(", closing=")", parts=[(said, key, _spread(node)) for said, key, node in parts]
    )
    code = any(column.read is not None for column in plan.columns)
    title = "Assemble one table from many files" + (f": the plan {name} as a script" if name else "")
    lines = [
        f'"""{title}.',
        "",
        "Run it as: python SCRIPT [TABLE]",
        '"""',
        "",
        "import os",
        "import sys",
        "from pathlib import Path",
        "",
        "import integrum as ig",
        "",
        *(f"# {line}".rstrip() for line in comments.get(("", "integrum"), ())),
        *_exploded(whole),
        *(f"# {line}".rstrip() for line in comments.get(_END, ())),
        "",
        'if __name__ == "__main__":',
        f"    to = Path(sys.argv[1] if len(sys.argv) > 1 else {_quoted(table)}).resolve()",
        "    os.chdir(Path(__file__).parent)  # the paths above are relative to it",
        f"    outcome = ig.assemble(plan, to=to{', allow_code=True' if code else ''})",
        "    print(outcome)",
        "    sys.exit(outcome.status)",
    ]
    return "\n".join(lines) + "\n"


def comments_of(text: str) -> dict[tuple[str, str], list[str]]:
    """The comments of a plan file, by the table or the key that they stand above, or behind.

    Examples
    --------
    >>> comments_of("# lakes\\nintegrum = 1\\n[[columns]]\\nname = 'lake'  # tidied\\n")
    {('', 'integrum'): ['lakes'], ('columns[1]', 'name'): ['tidied']}
    >>> comments_of("[[columns]]\\nname = 'lake'\\n# of the first\\n\\n# of the second\\n[[columns]]\\nname = 'day'\\n")
    {('columns[1]', ''): ['of the first'], ('columns[2]', ''): ['of the second']}
    """
    found: dict[tuple[str, str], list[str]] = {}
    waiting: list[str] = []
    last, follows = ("", "integrum"), False
    for _, line, spot in spots_by_line(text):
        plain = line.strip()
        if plain.startswith("#"):
            waiting.append(plain[1:].strip())
            continue
        if not plain and waiting and follows:  # right below the last key of a table: it is about this one
            found.setdefault((last[0], ""), []).extend(waiting)
            waiting = []
        follows = bool(plain)
        if spot is not None:
            last = spot
        said = comment_of(line)
        if spot is not None or said:
            lines = [*waiting, *([said] if said else [])]
            if lines:
                found.setdefault(last, []).extend(lines)
            waiting = []
    if waiting:
        found.setdefault((last[0], "") if follows else _END, []).extend(waiting)
    return found


def _exploded(whole: _Node) -> list[str]:
    return [*whole.lines("", "plan = ", "", whole=True), ""]


def _spread(node: _Node) -> _Node:
    """A list of objects has each on a line of its own, also where there is room for them."""
    return (
        _Spread(opening=node.opening, closing=node.closing, parts=node.parts) if node.opening == "[" else node
    )


class _Spread(_Node):
    @property
    def flat(self) -> str:
        """It is never on one line."""
        return ""


def _object(item: Any, spot: str, comments: Comments) -> tuple[Sequence[str], str, _Node]:
    """An object as a call, with the comments above it."""
    above = list(comments.get((spot, ""), ()))
    parts: list[tuple[Sequence[str], str, _Node]] = []
    for number, each in enumerate(fields(item)):
        value = getattr(item, each.name)
        is_first = number == 0 and each.default is MISSING and each.default_factory is MISSING
        if not is_first and value == default_of(each):
            continue
        said = comments.get((spot, key_of_field(each.name)), ())
        name = "" if is_first or (each.name == "type" and number == 1) else f"{each.name}="
        if is_first:
            above += said
            said = ()
            lone = isinstance(value, tuple) and len(value) == 1
            node = _value(value[0] if lone else value)
        elif is_dataclass(value) and is_table(each):
            more, _, node = _object(value, f"{spot}.{each.name}", comments)
            said = [*said, *more]
        elif AS_TABLES in each.metadata:
            items = [_object(one, f"{spot}.{each.name}[{at}]", comments) for at, one in enumerate(value, 1)]
            node = _Node(opening="[", closing="]", parts=items)
        else:
            more = comments.get((f"{spot}.{each.name}", ""), ())
            said, node = [*said, *more], _value(value)
        parts.append((said, name, node))
    return above, "", _Node(opening=f"ig.{type(item).__name__}(", closing=")", parts=parts)


def _value(value: Any) -> _Node:
    """A value as Python writes it."""
    if isinstance(value, str):
        return _Node(_quoted(value))
    if isinstance(value, (tuple, list)):
        return _Node(opening="[", closing="]", parts=[((), "", _value(one)) for one in value])
    if isinstance(value, Mapping):
        parts = [((), f"{_quoted(str(key))}: ", _value(one)) for key, one in value.items()]
        return _Node(opening="{", closing="}", parts=parts)
    if is_dataclass(value):
        return _object(value, "\0", {})[2]
    if callable(value):
        return _Node(_quoted(place_of(value)))
    return _Node(repr(value))


def _quoted(text: str) -> str:
    """A text in double quotes, unless that needs more signs of escape."""
    said = repr(text)
    if said[0] == '"' or text.count('"') > text.count("'"):
        return said
    inner = said[1:-1].replace("\\'", "'").replace('"', '\\"')
    return f'"{inner}"'


def script_name(plan: str) -> str:
    """The table that the script of a plan file writes.

    Examples
    --------
    >>> script_name("plans/lakes.toml")
    'lakes.csv'
    """
    return f"{PurePath(os.path.basename(plan)).stem}.csv"
