"""The constants by which values are judged, in one place."""

from __future__ import annotations

# numbers that instruments and people write for "no value": digits of one kind
CODES = frozenset(
    float(f"{sign}{digit * whole}{'.' + digit * parts if parts else ''}")
    for sign in ("-", "")
    for digit in "987"
    for whole in range(1, 8)
    if whole > 1
    for parts in range(4)
)
# a code lies this many widths of the range of all other values away from it
CODE_APART = 1.0
# and this often it is there at least
CODE_TIMES = 2
# below zero, where all others are not: from here on once is enough, and from there on twice
CODE_SURE, CODE_MAYBE = -777.0, -66.0
# a positive code is this many times the greatest other value, and has this many digits before the point
CODE_BEYOND, CODE_DIGITS = 3.0, 3

# a column has a type when this share of its values has it, and this many of them; the others are bad values
MOSTLY, MOSTLY_VALUES = 0.95, 20

# a text column with more different values than that is no list of categories, nor with fewer repetitions of each
CATEGORY_MOST, CATEGORY_REPEATED = 200, 2.0
# a misspelt word has this many letters, and is this many times rarer than the right one
CATEGORY_SHORTEST, CATEGORY_RARER = 5, 5
