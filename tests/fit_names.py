"""Fit the weights of the evidence for names on generated tables, and print them (`make fit`)."""

from __future__ import annotations

import random
import re
import sys
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from integrum.columns.names import weights
from integrum.columns.names.glossary import Glossary
from integrum.columns.names.guessing import ahead_of_rivals, weigh_all, with_coded
from integrum.columns.names.known import EvidenceContext
from integrum.columns.names.weights import FIGURES
from naming_truth import columns_of, tally, truth_of, with_wanted
from renamed_tables import make

RIDGE = 1.0
LACKING = (0.0, 0.2, 0.4)


def glossary_of(seed: int) -> Glossary:
    """The glossary without some of its entries, as it lacks words of subjects that nobody thought of."""
    chance = random.Random(seed)
    lacking = chance.choice(LACKING)
    glossary = Glossary()
    glossary._of = {words: meaning for words, meaning in glossary._of.items() if chance.random() > lacking}
    return glossary


def pairs_of(seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Of one table the figures of all pairs, their truth, their odds with those ahead of rivals, and their case."""
    parts = make(seed)
    truth = truth_of(parts)
    columns, groups = columns_of(parts)
    true = [truth[group[0].name, group[0].by_position] for group in groups]
    if seed % 4 == 0:  # as for a plan whose columns are given
        columns, true = with_wanted(seed, columns, true)
    columns = with_coded(columns)
    weighed = weigh_all(columns, EvidenceContext(len(parts), glossary_of(seed)))
    ahead = ahead_of_rivals(columns, weighed)
    cases = [pair.case for pair in weighed]
    both = [columns[pair.one].is_mute and columns[pair.other].is_mute for pair in weighed]
    return (
        np.array([pair.figures for pair in weighed]).reshape(-1, len(FIGURES)),
        np.array([true[pair.one] == true[pair.other] for pair in weighed], bool),
        np.array([(pair.odds, *behind) for pair, behind in zip(weighed, ahead, strict=True)]).reshape(-1, 3),
        np.array(["" if mute else case for case, mute in zip(cases, both, strict=True)], "U9"),
    )


def gather(seeds: Iterable[int]) -> tuple[np.ndarray, ...]:
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(pairs_of, seeds, chunksize=10))
    return tuple(np.concatenate([each[at] for each in found]) for at in range(4))


def logistic(figures: np.ndarray, truth: np.ndarray, ridge: float = RIDGE) -> np.ndarray:
    """Weights by Newton's method, the constant first."""
    x = np.column_stack([np.ones(len(figures)), figures])
    w = np.zeros(x.shape[1])
    penalty = ridge * np.eye(x.shape[1])
    penalty[0, 0] = 0
    for _ in range(60):
        p = 1 / (1 + np.exp(-np.clip(x @ w, -30, 30)))
        step = np.linalg.solve(x.T @ (x * (p * (1 - p))[:, None]) + penalty, x.T @ (truth - p) - penalty @ w)
        w += step
        if np.abs(step).max() < 1e-6:
            break
    return w


def set_weights(name: str, figures: np.ndarray, truth: np.ndarray) -> None:
    w = logistic(figures, truth)
    kept = {"constant": w[0]} | dict(zip(FIGURES, w[1:], strict=True))
    setattr(weights, name, {key: round(float(value), 3) for key, value in kept.items() if abs(value) > 5e-4})


CASES = {
    "named": ("NAMED", "RIVALS"),
    "unrelated": ("UNRELATED", "RIVALS_UNRELATED"),
    "mute": ("BY_POSITION", "RIVALS_BY_POSITION"),
    "wanted": ("WANTED", "RIVALS_WANTED"),
}


def main(count: int) -> None:
    seeds = range(count)
    figures, truth, _, cases = gather(seeds)
    for case, (name, _) in CASES.items():
        set_weights(name, figures[cases == case], truth[cases == case])
    _, truth, odds, cases = gather(seeds)  # workers are forked, so they have the weights that were just set
    for case, (_, name) in CASES.items():
        w = logistic(odds[cases == case], truth[cases == case])
        setattr(weights, name, tuple(round(float(value), 3) for value in w))
    settle(seeds)
    write()


def settle(seeds: Iterable[int]) -> None:
    """Bring the scores of what is offered in the end to the share of those that are right.

    Columns are put together after their pairs are weighed, and one without a name is given the best of many partners; both
    change how often a score is right.
    """
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(tally, ([seed] for seed in seeds), chunksize=10))
    for pairs, names in (
        ([each for one in found for each in one.guesses], ("RIVALS", "RIVALS_UNRELATED")),
        ([each for one in found for each in one.by_position], ("RIVALS_BY_POSITION",)),
    ):
        odds = np.array([np.log(score / (1 - score)) for score, _ in pairs])
        constant, slope = logistic(odds[:, None], np.array([right for _, right in pairs], float), ridge=0.0)
        for name in names:
            first, *others = getattr(weights, name)
            settled = (constant + slope * first, *(slope * each for each in others))
            setattr(weights, name, tuple(round(float(value), 3) for value in settled))


def write() -> None:
    """Write the weights into their file."""
    file = Path(weights.__file__)
    text = file.read_text(encoding="utf-8")
    for name in (each for pair in CASES.values() for each in pair):
        value = getattr(weights, name)
        lines = (
            "".join(f'    "{key}": {each},\n' for key, each in value.items())
            if isinstance(value, dict)
            else ""
        )
        said = f"{{\n{lines}}}" if lines else repr(value)
        pattern = rf"^({name}: [^=]*) = (?:\{{[^}}]*\}}|\([^)]*\))"
        text = re.sub(pattern, lambda found, said=said: f"{found[1]} = {said}", text, flags=re.M)
    file.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 800)
