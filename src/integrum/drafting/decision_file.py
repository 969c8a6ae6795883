"""The document of decisions: JSON with a version, kept beside the plan."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Sequence
from pathlib import Path

from integrum.drafting.answers import Answer, answer_of
from integrum.errors import PlanError
from integrum.plan.validating import expected
from integrum.plan.wrong_words import nearest
from integrum.problems.problem import near

VERSION = 1
_KEYS = ("integrum_decisions", "plan", "decisions")
_ENDING = "-decisions.json"


def decisions_beside(plan: str | os.PathLike[str]) -> Path:
    """The path of the decisions about a plan.

    Examples
    --------
    >>> decisions_beside("work/lakes.toml").as_posix()
    'work/lakes-decisions.json'
    """
    path = Path(plan)
    return path.with_name(path.stem + _ENDING)


def decisions_text(answers: Sequence[Answer], plan: str = "") -> str:
    """A document of decisions; each stands on a line.

    Parameters
    ----------
    answers
        The decisions, the latest last.
    plan
        The name of the plan file that they are about.

    Examples
    --------
    >>> from integrum.drafting.answers import TypeOf
    >>> print(decisions_text([TypeOf("ph", "number")], "lakes.toml"), end="")
    {
      "integrum_decisions": 1,
      "plan": "lakes.toml",
      "decisions": [
        {"about": "type", "column": "ph", "type": "number"}
      ]
    }
    """
    lines = ",\n".join(f"    {json.dumps(one.as_data(), ensure_ascii=False)}" for one in answers)
    inner = f"[\n{lines}\n  ]" if lines else "[]"
    head = f'  "integrum_decisions": {VERSION},\n  "plan": {json.dumps(plan, ensure_ascii=False)},\n'
    return f'{{\n{head}  "decisions": {inner}\n}}\n'


def parse_decisions(text: str) -> list[Answer]:
    """Read decisions from the text of a document.

    Raises PlanError when it is none, or is of a later version; the place says which decision is wrong.

    Examples
    --------
    >>> [str(one) for one in parse_decisions('{"integrum_decisions": 1, "decisions": []}')]
    []
    """
    try:
        said = json.loads(text)
    except ValueError as error:
        raise PlanError(f"this is not a document of decisions: it is not JSON ({error})") from error
    if not isinstance(said, dict) or "integrum_decisions" not in said:
        raise PlanError('this is not a document of decisions: it does not have the key "integrum_decisions"')
    version = said["integrum_decisions"]
    if version != VERSION or isinstance(version, bool):
        raise PlanError(
            f"expected {VERSION}, the version of the document that this Integrum reads, but got {version!r}",
            "integrum_decisions",
        )
    for name in said:
        if name not in _KEYS:
            raise PlanError(f'unknown key "{name}"{nearest(name, _KEYS)}')
    found = said.get("decisions", [])
    if not isinstance(found, list):
        raise PlanError(expected("a list", found), "decisions")
    return joined(answer_of(one, f"decisions[{number}]") for number, one in enumerate(found, 1))


def read_decisions(path: str | os.PathLike[str]) -> list[Answer]:
    """Read decisions from a file.

    Raises PlanError as `parse_decisions`, and where the file cannot be read.
    """
    try:
        text = Path(path).read_bytes().decode("utf-8-sig")
    except OSError as error:
        raise PlanError(f"cannot read {near(Path(path))}: {error.strerror}") from error
    except UnicodeDecodeError as error:
        raise PlanError(f"{near(Path(path))} is not UTF-8") from error
    try:
        return parse_decisions(text)
    except PlanError as error:
        raise error.within(near(Path(path))) from error


def joined(answers: Iterable[Answer]) -> list[Answer]:
    """Drop decisions that a later one replaces."""
    held: dict[object, Answer] = {}
    for one in answers:
        held.pop(one.subject, None)
        held[one.subject] = one
    return list(held.values())
