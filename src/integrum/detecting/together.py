"""Sources of one group are judged together: neighbours decide for one that is too short, sparse or odd to tell."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import replace

from integrum.columns.header import Header
from integrum.detecting.detect import UNCLEAR_ENCODING, Detected
from integrum.detecting.sample import take_sample
from integrum.plan.layout import Layout, is_ascii_like
from integrum.plan.names import loosened
from integrum.problems import SourceFault
from integrum.reading.head import read_head
from integrum.sources.source import Source

SURE = 0.9
_LIKELY, _MOST_LAYOUTS = 0.97, 4
_LEAST_SHARE = 0.8


def judged_together(found: Sequence[tuple[Source, Detected]]) -> list[tuple[Source, Detected]]:
    """Give a source of which the guess is not sure the layout of its neighbours, where their header stands in it.

    Returns the same; where neighbours have decided, the evidence says so.
    """
    result = list(found)
    for group in {source.group for source, _ in found}:
        own = [at for at, (source, _) in enumerate(found) if source.group == group and not source.sheet]
        for at, one in _with_encodings([result[at] for at in own]):
            result[own[at]] = one
        sure = [at for at in own if result[at][1].confidence >= SURE and result[at][1].layout.has_header]
        known, headed = set(sure), len(sure) >= 0.5 * len(own)
        weak = [at for at in own if at not in known and (headed or result[at][1].confidence < SURE)]
        if not weak or not sure:
            continue
        neighbours = _headers([result[at] for at in sure])
        for at in weak:
            result[at] = _decided(*result[at], neighbours)
    return result


def _with_encodings(
    found: Sequence[tuple[Source, Detected]],
) -> Iterator[tuple[int, tuple[Source, Detected]]]:
    """Sources whose encoding cannot be told, in the one that most of the others have for certain, if it is valid there."""
    certain = Counter(
        one.layout.encoding
        for _, one in found
        if one.confidence and one.doubt != UNCLEAR_ENCODING and not one.free & {"encoding"}
    )
    for at, (source, one) in enumerate(found):
        if one.doubt != UNCLEAR_ENCODING:
            continue
        for encoding, _ in certain.most_common():
            try:
                take_sample(source).head[:-4].decode(encoding)
            except (UnicodeDecodeError, OSError, SourceFault):
                continue
            said = f"encoding {encoding}, as in its neighbours"
            layout = replace(one.layout, encoding=encoding)
            yield (
                at,
                (
                    source,
                    replace(
                        one,
                        layout=layout,
                        doubt="",
                        confidence=max(one.confidence, _LIKELY),
                        evidence=(said, *one.evidence[1:]),
                    ),
                ),
            )
            break


def _headers(sure: Sequence[tuple[Source, Detected]]) -> list[tuple[Layout, Header]]:
    """The commonest layouts among some sources, wherever the header stands, each with a header."""
    alike: dict[str, list[tuple[Source, Detected]]] = {}
    for each in sure:
        alike.setdefault(repr(replace(each[1].layout, header_row=1, footer_from=())), []).append(each)
    headers = []
    for having in sorted(alike.values(), key=lambda each: -len(each))[:_MOST_LAYOUTS]:
        source, detected = having[0]
        with suppress(SourceFault):
            headers.append((detected.layout, read_head(source, detected.layout).header))
    return headers


def _decided(
    source: Source, detected: Detected, neighbours: Sequence[tuple[Layout, Header]]
) -> tuple[Source, Detected]:
    own = detected.layout
    if not detected.confidence:
        return source, detected
    best: tuple[tuple[bool, bool, bool], Layout, int] | None = None
    for layout, header in neighbours:
        names = {loosened(name) for name in header.named.values()}
        encoding = (
            layout.encoding
            if "encoding" in detected.free and is_ascii_like(layout.encoding)
            else own.encoding
        )
        if not header.written:
            continue
        tried = replace(layout, header_row=1, header_has=header.written, encoding=encoding)
        try:
            head = read_head(source, tried)
            last = -layout.rows_below
            if layout.rows_below and head.header.rows[last:] != header.rows[last:]:
                tried = replace(tried, units_row=False, describing_rows=0)
                head = read_head(source, tried)
        except SourceFault:
            continue
        there = {loosened(name) for name in head.header.named.values()}
        if len(there & names) < _LEAST_SHARE * len(there):
            continue
        worth = (tried.rows_below > 0, layout.encoding == own.encoding, layout.delimiter == own.delimiter)
        if best is None or worth > best[0]:
            best = worth, replace(tried, header_row=head.header_row, header_has=()), head.header_row
    if best is None:
        return source, detected
    _, layout, row = best
    if (own.header_row, own.delimiter) == (row, layout.delimiter) and own.rows_below >= layout.rows_below:
        return source, replace(detected, confidence=max(detected.confidence, _LIKELY), doubt="")
    evidence = (*detected.evidence[:1], f"header in row {row:,}, as in its neighbours")
    return source, replace(detected, layout=layout, confidence=_LIKELY, evidence=evidence, doubt="")
