"""Words for true and false, in eight languages."""

from __future__ import annotations

# a word for true and its opposite; letters alone only where they are not points of the compass
PAIRS = (
    ("true", "false"), ("yes", "no"), ("y", "n"), ("t", "f"), ("on", "off"),
    ("wahr", "falsch"), ("ja", "nein"), ("j", "n"), ("an", "aus"),
    ("vrai", "faux"), ("oui", "non"), ("verdadero", "falso"), ("sí", "no"), ("si", "no"),
    ("verdadeiro", "falso"), ("sim", "não"), ("sim", "nao"), ("vero", "falso"), ("sì", "no"),
    ("waar", "onwaar"), ("ja", "nee"), ("prawda", "fałsz"), ("tak", "nie"),
)  # fmt: skip
TRUE = frozenset(true for true, _ in PAIRS)
FALSE = frozenset(false for _, false in PAIRS)
WORDS = {"1": "true", "0": "false"} | dict.fromkeys(TRUE, "true") | dict.fromkeys(FALSE, "false")
