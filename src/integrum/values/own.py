"""A function of the analyst's own, from one text to one text or None; it is called once for each distinct value."""

from __future__ import annotations

import pyarrow as pa

from integrum.arrow.arrays import texts
from integrum.values.checking import Converted
from integrum.values.manner import Own


def read_by(values: pa.Array, own: Own) -> Converted:
    """Read texts by a function of your own.

    `own`: the function. None means that there is no value; an exception makes the value a bad one, with its message.

    Examples
    --------
    >>> done = read_by(pa.array(["3 feet", "deep", None]), lambda text: str(int(text.split()[0]) * 12))
    >>> done.text.to_pylist(), done.bad.tolist(), done.said
    (['36', None, None], [1], {1: "ValueError: invalid literal for int() with base 10: 'deep'"})
    """
    distinct = values.dictionary_encode()
    made: list[str | None] = []
    said: dict[int, str] = {}
    for at, value in enumerate(distinct.dictionary.to_pylist()):
        try:
            result = own(value)
            if result is not None and not isinstance(result, str):
                raise TypeError(f"the function returned {result!r}, which is not a text")
        except Exception as error:
            result, said[at] = None, f"{type(error).__name__}: {error}"
        made.append(result)
    done = texts(made).take(distinct.indices)
    if not said:
        return Converted(done)
    places = {place: said[code] for place, code in enumerate(distinct.indices.to_pylist()) if code in said}
    import numpy as np

    return Converted(done, np.fromiter(places, np.int64, len(places)), None, places)
