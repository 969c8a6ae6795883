"""Outputs named after identifiers: one output for each value."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from integrum.errors import OutputError
from integrum.naming.identifiers import Identified
from integrum.plan.model import Plan
from integrum.plan.validating import nearest
from integrum.sources.source import Source

MOST_OUTPUTS = 500
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

    Parameters
    ----------
    to
        A file name with identifiers, such as ``"{lake}_tidy.parquet"``; ``{group}`` is the group's name.
        Letters that no file name can have become ``-``; an empty value reads ``no-lake``.
    plan, sources, identified
        The plan, its sources and their identifiers.

    Returns
    -------
    list of str
        One per source.

    Raises
    ------
    OutputError
        When a name is no identifier of the plan, two values give one name, or there would be too many outputs.
    """
    names = _NAME.findall(to)
    known = (*plan.identifiers, "group")
    for name in names:
        if name not in known:
            raise OutputError(f'{to}: "{name}" is not an identifier of the plan{nearest(name, known)}')
    given: dict[str, tuple[str, ...]] = {}
    outputs: list[str] = []
    for source, one in zip(sources, identified, strict=True):
        group = plan.group(source.group).group or str(source.group)
        values = tuple(_value(name, one.values, group) for name in names)
        filled = iter(values)
        output = _NAME.sub(lambda _, filled=filled: _UNSAFE.sub("-", next(filled)), to)  # type: ignore[misc]
        if given.setdefault(output.casefold(), values) != values:
            raise OutputError(
                f"{to}: {given[output.casefold()]} and {values} would both be written to {output}"
            )
        outputs.append(output)
    if len(given) > MOST_OUTPUTS:
        raise OutputError(f"{to}: that would be {len(given):,} outputs; at most {MOST_OUTPUTS} are possible")
    return outputs


def _value(name: str, values: Mapping[str, str | None], group: str) -> str:
    if name == "group" and name not in values:
        return group
    return values.get(name) or f"no-{name}"
