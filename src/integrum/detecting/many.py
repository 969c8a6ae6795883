"""The layouts of many sources: as their groups say, guessed, like one that is known, or judged together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TypeVar

from integrum.columns.header import Header
from integrum.detecting.detect import UNCLEAR_ENCODING, UNREADABLE, Detected, detect_sample
from integrum.detecting.sample import Sample, take_sample
from integrum.detecting.sheet import SheetDetected, detect_sheet
from integrum.detecting.vocabulary import is_note, is_summary
from integrum.plan.fields import loosened
from integrum.plan.layout import Layout, is_ascii_like
from integrum.plan.plan import Plan
from integrum.problems.problem import SourceFault, unforeseen
from integrum.reading.head import read_head
from integrum.sources.own import START, kind_of_file
from integrum.sources.source import Source
from integrum.values.cells import is_value
from integrum.workbooks.places import number
from integrum.workers.pool import ahead

_LINES = 4
Guess = TypeVar("Guess", bound=Detected)
_MARKS = tuple(
    end + mark
    for end in (b"\n", b"\r")
    for mark in (b"\n", b"\r", b"#", b"%", b"//")
    if end + mark != b"\r\n"
)
SURE = 0.9
_LIKELY, _MOST_LAYOUTS = 0.97, 4
_LEAST_SHARE = 0.8
_TOGETHER = 160


class Guessed:
    """A sample and its guessed layout."""

    def __init__(self, sample: Sample, detected: Detected) -> None:
        layout = detected.layout
        self._delimiter = layout.delimiter.encode()
        self._top = b""
        plain = layout.quote == '"' and not (
            layout.footer_from or layout.comment_mark or layout.thousands_mark
        )
        simple = layout.encoding == "utf-8" and layout.delimiter != " " and detected.confidence >= 0.95
        alone = not (
            layout.first_column or layout.last_column or detected.second_table or detected.second_column
        )
        simple = simple and alone and detected.is_table
        if plain and simple and isinstance(layout.header_row, int) and not _surprises(sample.head):
            rows = layout.header_row + layout.header_rows - 1 + layout.rows_below
            lines = sample.head.split(b"\n", rows)
            if len(lines) > rows:
                self._top = b"\n".join(lines[:rows]) + b"\n"
                self._first = self._shape(lines[rows].split(b"\n", 1)[0])
                self._blank = b"\n" + self._delimiter * self._first[0] + b"\n"
                if self._blank in sample.head:
                    self._top = b""
        self._ascii = sample.head.isascii()

    def fits(self, sample: Sample) -> bool:
        """Whether a sample has the same bytes above its data, and its rows look alike.

        Only the plainest sources are recognised; whatever is doubtful is guessed anew.
        """
        head = sample.head
        if (
            not self._top
            or not head.startswith(self._top)
            or head.isascii() != self._ascii
            or _surprises(head)
            or self._blank in head
            or self._blank in sample.tail
        ):
            return False
        start, end = head[len(self._top) : len(self._top) + 4_000], (sample.tail or head)[-4_000:]
        rows = [*start.split(b"\n", _LINES)[:_LINES], *[line for line in end.split(b"\n") if line][-_LINES:]]
        if not sample.whole:
            rows = rows[:-1]
        if not self._ascii:
            try:
                (head if sample.whole else head[: head.rfind(b"\n")]).decode("utf-8")
            except UnicodeDecodeError:
                return False
        return all(self._shape(row) == self._first for row in rows if row)

    def _shape(self, line: bytes) -> tuple[int, bool, bool, bool, bool]:
        first = line.split(self._delimiter, 1)[0].decode("latin-1")
        comma = self._delimiter != b"," and b"," in line
        ends = is_summary(first) or is_note(first)
        return line.count(self._delimiter), is_value(first), comma, b'"' in line, ends


def _surprises(head: bytes) -> bool:
    some = head if len(head) < 8_000 else head[:5_000] + b"," + head[-3_000:]
    return any(mark in some for mark in _MARKS)


def detect_alike(samples: Sequence[Sample], detect: Callable[[Sample], Guess]) -> list[Guess]:
    """Guess the layouts of samples, each kind of source once.

    Returns one guess per sample.
    """
    known: list[tuple[Guessed, Guess]] = []
    found: list[Guess] = []
    for sample in samples:
        like = next((guess for one, guess in known if one.fits(sample)), None)
        if like is None:
            like = detect(sample)
            known = [(Guessed(sample, like), like), *known[:15]]
        found.append(like)
    return found


def judged_together(found: Sequence[tuple[Source, Detected]]) -> list[tuple[Source, Detected]]:
    """Give sources with a doubtful guess the layout of their neighbours, if its header is there.

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
    """Give sources of unclear encoding the encoding that most others certainly have, if their bytes are valid in it."""
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
    """The most frequent layouts among some sources, each with its header."""
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


def detect_layouts(
    plan: Plan, sources: Sequence[Source], executor: Executor, scratch: Path | None = None
) -> list[tuple[Source, Detected]]:
    """Decide about the layout of every source.

    Returns each source with its guess. Of a sheet only the columns of its table are left in the source.

    `plan`: one with columns is taken at its word, and so are groups that say something about their layout.
    """
    said = [plan.group(source.group).possible_layouts[0] for source in sources]
    several = [bool(plan.group(source.group).layouts) for source in sources]
    guessed = [at for at in range(len(sources)) if not (plan.columns or several[at]) and said[at] == Layout()]
    groups = [
        [sources[at] for at in guessed[start : start + _TOGETHER]]
        for start in range(0, len(guessed), _TOGETHER)
    ]
    found = [
        (source, Detected(layout, evidence=("the plan says so",)))
        for source, layout in zip(sources, said, strict=True)
    ]
    results = (one for some in ahead(executor, partial(detect_some, scratch=scratch), groups) for one in some)
    for at, one in zip(guessed, judged_together(list(results)), strict=True):
        found[at] = one
    return found


def detect_some(sources: Sequence[Source], scratch: Path | None = None) -> list[tuple[Source, Detected]]:
    """Guess the layouts of some sources; one that cannot be read has a confidence of 0, and a run says why."""
    samples: list[Sample | None] = []
    for source in sources:
        try:
            sample = take_sample(source)
            samples.append(None if source.sheet is None and kind_of_file(sample.head[:START]) else sample)
        except Exception:  # a run meets it again, and says what it is
            samples.append(None)
    try:
        return _guessed(list(zip(sources, samples, strict=True)), scratch)
    except Exception as error:
        if len(sources) == 1:
            fault = sources[0].fault or unforeseen(error)
            return [(replace(sources[0], fault=fault), replace(UNREADABLE, evidence=(fault.message,)))]
        return [one for source in sources for one in detect_some([source], scratch)]


def _guessed(
    pairs: Sequence[tuple[Source, Sample | None]], scratch: Path | None
) -> list[tuple[Source, Detected]]:
    files = [sample for source, sample in pairs if sample is not None and not source.sheet]
    sheets = [sample for source, sample in pairs if sample is not None and source.sheet]
    found, of_sheets = iter(detect_alike(files, detect_sample)), iter(detect_alike(sheets, detect_sheet))
    return [
        (source, UNREADABLE)
        if sample is None
        else _sheet(source, next(of_sheets), scratch)
        if source.sheet
        else (source, next(found))
        for source, sample in pairs
    ]


def _sheet(source: Source, detected: SheetDetected, scratch: Path | None) -> tuple[Source, Detected]:
    layout = detected.layout
    if source.sheet is None or not (layout.first_column or layout.last_column or layout.decimal_mark != "."):
        return source, detected
    sheet = replace(
        source.sheet,
        first_column=number(layout.first_column) or 1,
        last_column=number(layout.last_column),
        decimal_mark=layout.decimal_mark,
    )
    from integrum.sources.sheets import reread

    return reread(source, sheet, scratch), detected
