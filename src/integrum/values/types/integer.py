"""Integer: a whole number of 64 bits, without leading zeros."""

from __future__ import annotations

import re
from dataclasses import replace

import pyarrow as pa

from integrum.values.arrays import Mask
from integrum.values.digits import Letters, are_whole
from integrum.values.types.number import NUMBER
from integrum.values.types.type import Tested, cast

_ALPHABET = b"0123456789-"
# more digits than this cannot fit; asking for them would only cost time
_LONGEST = 400


def _parse(text: str) -> str | None:
    value = NUMBER.parse(text) if len(text) <= _LONGEST else None
    if value is None or "e" in value.lower():
        return None
    whole, _, rest = value.partition(".")
    if rest.strip("0") or not re.fullmatch("-?[0-9]{1,19}", whole) or not -(2**63) <= int(whole) < 2**63:
        return None
    return "0" if whole == "-0" else whole


def _test(values: pa.Array) -> Tested:
    if values.null_count == len(values):
        return True, None
    letters = Letters.of(values)
    # a cast that fails costs far more than a look at the letters
    if not letters.all_among(_ALPHABET) or (done := cast(values, pa.int64())) is None:
        return False, None
    return are_whole(letters), done


def _odd(values: pa.Array) -> Mask:
    return Letters.of(values).with_others(_ALPHABET)


INTEGER = replace(
    NUMBER,
    name="integer",
    arrow=pa.int64(),
    words="an integer",
    wrong="not an integer",
    examples=("-12", "0", "7", "2147483648"),
    parse=_parse,
    test=_test,
    odd=_odd,
    read=lambda _: None,
    pattern="^(?:-?[1-9][0-9]*|0)$",
    tried=1,
    unlikely=None,
    wider="number",
    also_canonical=frozenset({"number"}),
    has_one_text=True,
    converted="number",
    datatype="integer",
)
