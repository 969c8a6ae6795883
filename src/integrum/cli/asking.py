"""Go through the questions of a draft one by one, and write each answer into the plan at once."""

from __future__ import annotations

import sys
from collections.abc import Callable
from itertools import zip_longest

from integrum.cli.screen import out
from integrum.drafting.draft import Draft
from integrum.drafting.questions import Question, questions_of
from integrum.problems.problem import clipped, visible

_WORDS = {
    "y": "yes",
    "yes": "yes",
    "n": "no",
    "no": "no",
    "l": "later",
    "later": "later",
    "": "later",
    "s": "stop",
    "stop": "stop",
}
QUESTION = "yes, no, later or stop? [y/n/l/s] "
_WIDE = 34
# questions that are answered with yes or no; the names of files are decided in the plan or on the page
_YES_OR_NO, _NOT_ASKED = ("name", "value"), ("identifiers",)


def ask(made: Draft, write: Callable[[], object], answer: Callable[[], str] | None = None) -> dict[str, int]:
    """Ask about all that is open.

    Returns how many were answered with yes, with no, with one of several choices, and with later.

    Parameters
    ----------
    write
        Writes the plan; is called after each decision.
    answer
        Gives ``"yes"``, ``"no"``, the number of a choice, ``"later"`` or ``"stop"``; the terminal is asked when left out.
    """
    counts = {"yes": 0, "no": 0, "chosen": 0, "later": 0}
    later: set[str] = set()
    while open_ones := [one for one in asked_in(made) if one.said not in later]:
        question = open_ones[0]
        _show(question, len(open_ones))
        said = answer() if answer else _answer(question)
        if said == "stop":
            break
        if said == "later":
            counts["later"] += 1
            later.add(question.said)
            continue
        counts[said if said in counts else "chosen"] += 1
        at = {"yes": 0, "no": 1}.get(said)
        made.settle(question.choices[int(said) - 1 if at is None else at].answers)
        later.add(question.said)
        write()
    return counts


def asked_in(made: Draft) -> list[Question]:
    """A prompt on the terminal."""
    return [one for one in questions_of(made) if one.kind not in _NOT_ASKED]


def _show(question: Question, count: int) -> None:
    out.line((f"\n{count:,} to decide", "dim"))
    out.line((visible(question.said), "bold"))
    if beside := question.beside:
        sources = tuple(f"in {count:,} source{'' if count == 1 else 's'}" for count in beside.sources)
        for one, other in (beside.names, sources, *zip_longest(*beside.values, fillvalue="")):
            out.line(f"  {_cell(one):<{_WIDE}}  {_cell(other)}")
        out.line(f"  {question.because[0]}")
    for reason in question.because[1 if question.beside else 0 :]:
        out.line(f"  - {reason}")
    if question.kind not in _YES_OR_NO:
        for number, choice in enumerate(question.choices, 1):
            out.line(f"  {number}  {choice.said}")


def _cell(text: str) -> str:
    return clipped(visible(text), _WIDE)


def _answer(question: Question) -> str:
    numbers = [] if question.kind in _YES_OR_NO else [str(at + 1) for at in range(len(question.choices))]
    prompt = QUESTION
    if numbers:
        every = "1" if len(numbers) == 1 else f"1 to {len(numbers)}"
        prompt = f"{every}, later or stop? [{'/'.join(numbers)}/l/s] "
    while True:
        sys.stdout.write(prompt)
        sys.stdout.flush()
        line = sys.stdin.readline()
        if not line:  # nobody is there to answer
            sys.stdout.write("\n")
            return "stop"
        if not sys.stdin.isatty():
            sys.stdout.write("\n")
        said = line.strip().lower()
        if said in numbers:
            return said
        word = _WORDS.get(said)
        if word and not (numbers and word in ("yes", "no")):
            return word
        out.line(f"please answer {', '.join(numbers) if numbers else 'y, n'}, l or s")
