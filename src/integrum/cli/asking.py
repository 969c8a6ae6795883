"""Go through the guesses of a draft one by one, and write each answer into the plan at once."""

from __future__ import annotations

import sys
from collections.abc import Callable
from itertools import zip_longest

from integrum.cli.screen import out
from integrum.drafting.draft import Draft, OpenGuess
from integrum.problems import clipped, visible

_ANSWERS = {
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


def ask(made: Draft, write: Callable[[], object], answer: Callable[[], str] | None = None) -> dict[str, int]:
    """Ask about each open guess.

    Returns how many were answered with yes, no and later.

    Parameters
    ----------
    write
        Writes the plan; is called after each decision.
    answer
        Gives ``"yes"``, ``"no"``, ``"later"`` or ``"stop"``; the terminal is asked when left out.
    """
    counts = {"yes": 0, "no": 0, "later": 0}
    left: set[tuple[str, str]] = set()
    while open_ones := [one for one in made.guesses if (one.column, one.header) not in left]:
        guess = open_ones[0]
        _show(guess, len(open_ones))
        said = (answer or _answer)()
        if said == "stop":
            break
        counts[said] += 1
        if said == "later":
            left.add((guess.column, guess.header))
            continue
        guess.accept("decided") if said == "yes" else guess.refuse()
        write()
    else:
        _ask_values(made, write, answer or _answer, counts)
    return counts


def _ask_values(
    made: Draft, write: Callable[[], object], answer: Callable[[], str], counts: dict[str, int]
) -> None:
    left: set[tuple[str, str]] = set()
    while open_ones := [one for one in made.value_guesses if (one.column, one.value) not in left]:
        guess = open_ones[0]
        out.line((f"\n{len(open_ones):,} to decide", "dim"))
        pair = (f'"{clipped(visible(guess.value), _WIDE)}"', f'"{clipped(visible(guess.other), _WIDE)}"')
        out.line(
            "Is ", (pair[0], "bold"), " the same as ", (pair[1], "bold"), f' in "{visible(guess.column)}"?'
        )
        out.line(f"  - {guess.because}")
        said = answer()
        if said == "stop":
            break
        counts[said] += 1
        if said == "later":
            left.add((guess.column, guess.value))
            continue
        guess.accept() if said == "yes" else guess.refuse()
        write()


def _show(guess: OpenGuess, count: int) -> None:
    out.line((f"\n{count:,} to decide", "dim"))
    out.line("Is ", (f'"{guess.header}"', "bold"), " the same column as ", (f'"{guess.column}"', "bold"), "?")
    sources = tuple(f"in {count:,} source{'' if count == 1 else 's'}" for count in guess.sources)
    for one, other in ((guess.column, guess.header), sources, *zip_longest(*guess.examples, fillvalue="")):
        out.line(f"  {_cell(one):<{_WIDE}}  {_cell(other)}")
    out.line(f"  score {guess.score:.2f}: of guesses like this, {round(100 * guess.score)} in 100 are right")
    for reason in guess.because.split("; "):
        out.line(f"  - {reason}")


def _cell(text: str) -> str:
    return clipped(visible(text), _WIDE)


def _answer() -> str:
    while True:
        sys.stdout.write(QUESTION)
        sys.stdout.flush()
        line = sys.stdin.readline()
        if not line:  # nobody is there to answer
            sys.stdout.write("\n")
            return "stop"
        if not sys.stdin.isatty():
            sys.stdout.write("\n")
        said = _ANSWERS.get(line.strip().lower())
        if said:
            return said
        out.line("please answer y, n, l or s")
