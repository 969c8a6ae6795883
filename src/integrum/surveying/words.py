"""A survey in plain words."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from integrum.columns.header import GUESSED, LEFT_OUT
from integrum.problems.codes import SEVERITIES
from integrum.problems.grouped import grouped
from integrum.problems.problem import counted, first_few, middle, near, number_of
from integrum.surveying.presence import presence_of

if TYPE_CHECKING:
    from integrum.plan.layout import Layout
    from integrum.surveying.findings import ColumnMapping, HeaderVariant, SurveyData

# this many sources of which the guess is not certain are named
_DOUBTS = 3
_MOST_UNLISTED = 40
_MOST_HEADERS = 6
_MOST_GUESSES = 20
# the room for names of columns
_MOST_NAME = 32


def survey_lines(survey: SurveyData, *width: int) -> list[str]:
    """The survey as plain, stable lines; its grid for a width, when one is given."""
    lines = [headline(survey)]
    if survey.variants:
        lines += ["", "header variants"]
    for variant in survey.variants:
        lines.append(f"  {variant.number}: {len(variant.sources):,} × {shown_sources(variant)}")
        lines.append(f"     {difference(variant, survey)}")
    if any(layout_words(survey)):
        lines += ["", "layouts", *(f"  {line}" for line in layout_words(survey))]
    if survey.coverage:
        lines += ["", *str(survey.coverage).splitlines()]
    elif not survey.variants:
        lines += ["", *listed_sources(survey, len(survey.sources))]
    if survey.mapping:
        lines += ["", *mapping_lines(survey)]
    elif survey.columns:
        lines += ["", "columns"]
    wide = min(max((len(column.name) for column in survey.columns), default=0), _MOST_NAME)
    for column in () if survey.mapping else survey.columns:
        lines.append(
            f"  {column.name:<{wide}}  {column.type:<8}  {column.filled:,} value{_s(column.filled)}, "
            f"{column.sources:,} source{_s(column.sources)}{', ' if column.reach else ''}{column.reach}"
        )
        lines += [f"  {'':<{wide}}  - {remark}" for remark in column.remarks]
    if survey.guesses:
        lines += ["", *guess_lines(survey)]
    if len(survey.variants) > 1 and survey.columns:
        lines += [
            "",
            "columns by header variants",
            *(f"  {line}" for line in presence_of(survey).lines(*width)),
        ]
    lines += ["", f"problems: {counted_problems(survey)}"]
    return [*lines, *(f"  {line}" for group in grouped(survey.problems) for line in group.all_lines)]


def layout_words(survey: SurveyData) -> list[str]:
    """Each layout that was found, with the sources that have it and how sure it is; nothing when all are plain."""
    found: dict[str, list[int]] = {}
    for at, one in enumerate(survey.layouts):
        if survey.sources[at].variant:
            found.setdefault(_in_words(one.layout), []).append(at)
    lines = []
    for words, members in sorted(found.items(), key=lambda item: -len(item[1])):
        rows = sorted({survey.layouts[at].layout.header_row for at in members}, key=str)
        header = _header_words(survey.layouts[members[0]].layout, rows)
        names = [survey.sources[at].source for at in members]
        said = ", ".join(part for part in (header, words) if part)
        lines.append(f"{len(members):,} × {said}: {first_few(list(map(middle, names)), 2)}")
        doubts = list(_doubts(survey, members))
        lines += doubts
        if len(found) == 1 and said == "header in row 1":
            return [line.strip() for line in doubts]
    return lines


def _doubts(survey: SurveyData, members: Sequence[int]) -> Iterator[str]:
    """The sources of which the guess is not certain, the least certain first, and why."""
    doubtful = [at for at in members if survey.layouts[at].confidence < 1]
    doubtful.sort(key=lambda at: survey.layouts[at].confidence)
    for at in doubtful[:_DOUBTS]:
        one = survey.layouts[at]
        why = f"; {one.doubt}" if one.doubt else ""
        yield f"   {survey.sources[at].source}: {one.confidence:.0%} sure{why}"
    if len(doubtful) > _DOUBTS:
        yield f"   and {len(doubtful) - _DOUBTS:,} more that are uncertain"


def _header_words(layout: Layout, rows: Sequence[int | str]) -> str:
    if layout.header_has:
        return "header found by its cells"
    if rows[0] == "none":
        return "no header"
    return f"header in row {', '.join(map(str, rows))}"


def _in_words(layout: Layout) -> str:
    """All of a layout but the row of its header; an empty text for the plain one."""
    said = ["by position"] if layout.header_row == "none" else []
    said += [f"{layout.header_rows} header rows"] if layout.header_rows > 1 else []
    said += ["units below"] if layout.units_row else []
    if layout.describing_rows:
        said.append(
            f"{counted(layout.describing_rows, 'row')} below describe{'s' * (layout.describing_rows == 1)} the columns"
        )
    said += [f"footer from {' or '.join(layout.footer_from)}"] if layout.footer_from else []
    said += [f"from column {layout.first_column}"] if layout.first_column else []
    said += [f"to column {layout.last_column}"] if layout.last_column else []
    said += [f"comments {layout.comment_mark}"] if layout.comment_mark else []
    said += [layout.encoding] if layout.encoding != "utf-8" else []
    said += [_SIGNS.get(layout.delimiter, f"delimiter {layout.delimiter}")] if layout.delimiter != "," else []
    said += [f"quote {layout.quote}"] if layout.quote != '"' else []
    said += ["decimal comma"] if layout.decimal_mark == "," else []
    return ", ".join(said)


def mapping_lines(survey: SurveyData) -> list[str]:
    """What each column of the plan is filled from, what stays unlisted, and what would be set aside."""
    lines = ["columns of the plan"]
    wide = max(len(one.column) for one in survey.mapping)
    for one in survey.mapping:
        lacking = lacking_in(one)
        said = f"from {filled_from(one)}" + (f"; missing in {lacking}" if lacking else "")
        lines.append(f"  {one.column:<{wide}}  {one.type:<8}  {said}")
    return [*lines, *beyond_mapping(survey)]


def filled_from(one: ColumnMapping) -> str:
    """The headers that a column is filled from, with the number of sources that have each."""
    told = [f'"{header}" in {count:,} source{_s(count)}' for header, count in one.headers[:_MOST_HEADERS]]
    rest = len(one.headers) - _MOST_HEADERS
    told += [f"and {rest:,} more headers"] if rest > 0 else []
    return ", ".join([*told, *(["names or preambles"] if one.identifier else [])]) or "no source"


def lacking_in(one: ColumnMapping) -> str:
    """The sources that have none of the headers of a column; empty when all have one, or none has."""
    if not one.lacking or not (one.headers or one.identifier):
        return ""
    return one.missing_in or _in(len(one.lacking))


def beyond_mapping(survey: SurveyData) -> list[str]:
    """The headers that no column of the plan claims, and the sources that would be set aside."""
    lines: list[str] = []
    told = [f'"{header}" in {_in(count)}' for header, count in survey.unlisted]
    maybe = [
        f'"{one.header}" in {_in(one.sources)}: may be "{one.column}"'
        for one in survey.headers
        if one.state == GUESSED
    ]
    wanted = [f'"{one.header}" in {_in(one.sources)}' for one in survey.headers if one.state == LEFT_OUT]
    aside = [f"{one.source} ({one.reason})" for one in survey.sources if not one.is_assembled]
    for title, entries in (
        ("headers that may belong to a column, undecided", maybe),
        ("headers that are not in the plan", told),
        ("headers that are left out on purpose", wanted),
        ("sources that would be set aside", aside),
    ):
        if entries:
            rest = len(entries) - _MOST_UNLISTED
            lines += [title, *(f"  {each}" for each in entries[:_MOST_UNLISTED])]
            lines += [f"  and {rest:,} more"] if rest > 0 else []
    return lines


GUESSES = "columns that may be the same under other names"


def guess_lines(survey: SurveyData) -> list[str]:
    """The guesses which columns are the same, the surest first, with what speaks for each."""
    lines = [GUESSES]
    for guess in survey.guesses[:_MOST_GUESSES]:
        others = ", ".join(f'"{name}"' for name in guess.headers)
        lines.append(f'  {guess.score:.2f}  {others} in {_in(guess.other_sources)} may be "{guess.column}"')
        lines.append(f"        {guess.because}")
    rest = len(survey.guesses) - _MOST_GUESSES
    return [*lines, *([f"  and {rest:,} more"] if rest > 0 else []), f"  {HOW_TO_DECIDE}"]


HOW_TO_DECIDE = (
    "a run does not use these guesses; to decide them one by one: integrum draft WHERE --plan PLAN.toml --ask"
)


def _in(count: int) -> str:
    return f"{count:,} source{_s(count)}"


def listed_sources(survey: SurveyData, most: int) -> list[str]:
    """The names of the sources, where there is nothing else to show."""
    names = [f"  {one.source}" for one in survey.sources[:most]]
    rest = len(survey.sources) - most
    return ["sources", *names, *([f"  and {rest:,} more"] if rest > 0 else [])]


_SIGNS = {";": "semicolons", "\t": "tabs", "|": "bars", " ": "spaces"}


def headline(survey: SurveyData) -> str:
    """How much there is, in one line."""
    said = f"{len(survey.sources):,} source{_s(len(survey.sources))} in {near(survey.base)}"
    if not survey.variants:
        return said
    return (
        f"{said}: {survey.rows:,} rows of data, {len(survey.variants):,} header "
        f"variant{_s(len(survey.variants))}, {len(survey.columns):,} columns in all"
    )


def _s(count: int) -> str:
    return "" if count == 1 else "s"


def shown_sources(variant: HeaderVariant, most: int = 3) -> str:
    """The first few sources of a variant."""
    rest = len(variant.sources) - most
    names = ", ".join(middle(name) for name in variant.sources[:most])
    return names + (f" and {rest:,} more" if rest > 0 else "")


def difference(variant: HeaderVariant, survey: SurveyData) -> str:
    """A variant's columns; of a rarer one what it lacks, adds and writes otherwise than the first."""
    first = survey.variants[0]
    if variant is first:
        return f"{counted(len(variant.names), 'column')}: {', '.join(variant.names)}"
    column_of = {spelling: column.name for column in survey.columns for spelling, _ in column.spellings}
    there = {column_of.get(name, name): name for name in first.names}
    here = {column_of.get(name, name): name for name in variant.names}
    if not there.keys() & here.keys():
        names = ", ".join(variant.names)
        return f"{counted(len(variant.names), 'column')}, none of them in variant {first.number}: {names}"
    lacks = [there[column] for column in there if column not in here]
    adds = [here[column] for column in here if column not in there]
    otherwise = [
        f"{there[each]} to {here[each]}" for each in here if each in there and here[each] != there[each]
    ]
    said = [f"missing {', '.join(lacks)}"] if lacks else []
    said += [f"extra {', '.join(adds)}"] if adds else []
    said += [f"renamed {', '.join(otherwise)}"] if otherwise else []
    if not said:
        said = ["the same columns in another order"]
    return f"{counted(len(variant.names), 'column')}; compared with variant {first.number}: {'; '.join(said)}"


def counted_problems(survey: SurveyData) -> str:
    """How many findings of each severity."""
    found = [
        counted(count, severity) for severity in SEVERITIES if (count := number_of(severity, survey.problems))
    ]
    return ", ".join(found) or "none"
