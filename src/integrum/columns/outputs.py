"""Outputs named after identifiers: one output for each value."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from urllib.parse import quote

from integrum.columns.identifiers import Identified
from integrum.errors import OutputError
from integrum.plan.plan import Plan
from integrum.plan.wrong_words import nearest
from integrum.sources.source import Source

MOST_OUTPUTS = 500
# what the name of a folder of Parquet files ends with, and what its readers take for no value
FOLDER, NONE = ".parquet", "__HIVE_DEFAULT_PARTITION__"
_NAME = re.compile(r"\{([^{}]+)\}")
_UNSAFE = re.compile(r'[/\\:*?"<>|\x00-\x1f]')


def has_names(to: str) -> bool:
    """Whether the name of an output has identifiers in it.

    Examples
    --------
    >>> has_names("{lake}_tidy.parquet"), has_names("lakes.csv")
    (True, False)
    """
    return _NAME.search(to) is not None


def output_names(
    to: str, plan: Plan, sources: Sequence[Source], identified: Sequence[Identified]
) -> list[str]:
    """The output that each source goes to.

    Returns one per source.

    Raises OutputError when a name is no identifier of the plan, two values give one name, or there would be too many
    outputs.

    `to`: A file name with identifiers, such as ``"{lake}_tidy.parquet"``; ``{group}`` is the group's name. Letters
    that no file name can have become ``-``; an empty value reads ``no-lake``. With ``/`` at its end it is a folder of
    Parquet files; then values behind ``.parquet`` are written as readers of such folders expect it.
    """
    names = _NAME.findall(to)
    known = (*plan.identifiers, "group")
    for name in names:
        if name not in known:
            raise OutputError(f'{to}: "{name}" is not an identifier of the plan{nearest(name, known)}')
    in_folders = _in_folders(to)
    given: dict[str, tuple[str, ...]] = {}
    outputs: list[str] = []
    for source, one in zip(sources, identified, strict=True):
        group = plan.group(source.group).group or str(source.group)
        values = tuple(
            (one.values.get(name) or NONE) if inside else _value(name, one.values, group)
            for name, inside in zip(names, in_folders, strict=True)
        )
        filled = iter(zip(values, in_folders, strict=True))
        output = _NAME.sub(lambda _, filled=filled: _written(*next(filled)), to)  # type: ignore[misc]
        if given.setdefault(output.casefold(), values) != values:
            raise OutputError(f"{to}: {_twins(given[output.casefold()], values)} {output}")
        outputs.append(output)
    if len(given) > MOST_OUTPUTS:
        raise OutputError(f"{to}: that would be {len(given):,} outputs; at most {MOST_OUTPUTS} are possible")
    return outputs


def _twins(one: Sequence[str], other: Sequence[str]) -> str:
    """Say why two values cannot have an output each."""
    said = [f'"{", ".join(each)}"' for each in (one, other)]
    if [each.casefold() for each in one] == [each.casefold() for each in other]:
        return (
            f"the values {' and '.join(said)} differ only in upper and lower case, and many systems take such names for "
            'the same file; give the identifier case = "lower", or write them alike with `values`. The file would be'
        )
    return f"the values {' and '.join(said)} would both be written to"


def _in_folders(to: str) -> list[bool]:
    """For each name whether its value is told by a folder ``name={name}`` below one that ends with ``.parquet``.

    Raises OutputError when such a folder says something else.
    """
    begin = to.lower().find(f"{FOLDER}/") if to.endswith("/") else -1
    if begin < 0:
        return [False] * len(_NAME.findall(to))
    root, below = to[: begin + len(FOLDER)], to[begin + len(FOLDER) + 1 :].rstrip("/")
    for part in below.split("/") if below else ():
        match = re.fullmatch(r"([^={}]+)=\{([^{}]+)\}", part)
        if not match or match[1] != match[2]:
            raise OutputError(
                f'{to}: below {root}, each folder is name={{name}}, such as lake={{lake}}; got "{part}"'
            )
    return [False] * len(_NAME.findall(root)) + [True] * len(_NAME.findall(below))


def _written(value: str, inside: bool) -> str:
    if not inside:
        return _UNSAFE.sub("-", value)
    return value if value == NONE else quote(value, safe=" ")


def _value(name: str, values: Mapping[str, str | None], group: str) -> str:
    if name == "group" and name not in values:
        return group
    return values.get(name) or f"no-{name}"
