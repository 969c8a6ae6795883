"""What it costs when a guess about a layout is wrong. To lose a row of data costs far more than to keep a stray note."""

from __future__ import annotations

# a row above the header, or in a footer, that reads like the data
DROPPED_DATA = 8.0
# the same where the table has only texts, so that nothing but its width speaks for it
DROPPED_TEXT = 2.5
# any other row that is dropped; one with values in it, and one with values where no data would be left
DROPPED, DROPPED_VALUES, DROPPED_ALL = 0.15, 0.5, 2.0
# a row full of different words right above a header: it may be the header
DROPPED_WORDS = 1.5
# a row that is kept in the table and is not like the others: it is reported as a bad value, or set aside with its text
KEPT_NOTE = 1.0
KEPT_SHORT = 0.8
# the same of a row that has a word of its own in most columns of numbers or times, for each word: it names the columns
KEPT_NAMES = 2.0
# a column with values that has no name, and the first one, which is often an index
NAMELESS, NAMELESS_FIRST = 0.7, 0.1
# a header that comes again below speaks for itself, one with an empty row below it a little against
REPEATED, APART = 0.5, 0.5
# a column of numbers or times in which hardly anything else stands speaks for a reading, up to so many of them
PURE_COLUMN, MOST_PURE = 1.0, 3
