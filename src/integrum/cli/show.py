"""Surveys, drafts and outcomes as people read them; plain and stable text when piped, JSON for machines."""

from __future__ import annotations

import json
import re
import shlex
from collections.abc import Sequence
from dataclasses import asdict
from difflib import unified_diff
from pathlib import Path
from typing import TYPE_CHECKING, Any

from integrum.cli.screen import STYLES, Screen, err, out
from integrum.measures.tables import CODEBOOK
from integrum.problems.problem import COMMANDS, counted, near

# only the command that shows a thing has loaded what it is
if TYPE_CHECKING:
    from integrum.drafting.draft import Draft
    from integrum.intake.ledger import SourceSummary
    from integrum.problems.problem import Problem
    from integrum.results.changes import Changes
    from integrum.results.outcome import Outcome
    from integrum.results.overview import Overview
    from integrum.results.traced import Trace
    from integrum.results.verification import Verification
    from integrum.surveying.rows import OneSource
    from integrum.surveying.view import Survey

_MOST_PROBLEMS = 12
_MOST_GUESSES = 12
_MOST_CHANGES = 10
# below this many letters lines are easier to read than tables
_WIDE = 110
# remarks about layouts that need an eye
_DOUBT = re.compile(
    r"^layout \d+:|\d% sure|uncertain|of their own|on its own|another table|"
    "header cells look like|^wide = |^then the columns|not fit ids|^ids = .* fits |names follow a pattern; not"
)


def survey(seen: Survey, as_json: bool) -> None:
    """Print a survey to standard output."""
    if as_json:
        out.text(_json(_survey_data(seen)))
    elif out.is_terminal and out.console.width >= _WIDE:
        from integrum.cli import tables
        from integrum.surveying.words import counted_problems

        tables.survey(seen)
        out.line(f"problems: {counted_problems(seen)}")
        _problems(seen.problems, out)
    elif out.is_terminal:
        from integrum.surveying.words import survey_lines

        for line in survey_lines(seen, out.console.width - 2):
            out.wrapped(line)
    else:
        out.text(f"{seen}\n")


def one_source(seen: OneSource) -> None:
    """Print the rows of one source with the part that each was taken for."""
    if out.is_terminal:
        from integrum.cli import tables

        tables.one_source(seen)
    else:
        out.text(f"\n{seen}\n")


def draft(made: Draft, path: Path | None, accepted: int | None = None) -> None:
    """Print a drafted plan, or say where it was written."""
    if path is None:
        out.text(str(made))
        return
    from integrum.drafting.decision_file import decisions_beside
    from integrum.drafting.settle import settled_lines

    types: dict[str, int] = {}
    for column in made.plan.columns:
        types[column.type] = types.get(column.type, 0) + 1
    counted = ", ".join(f"{count} {name}" for name, count in types.items())
    out.line(f"plan: {path}")
    out.line(f"{len(made.plan.columns)} columns: {counted}")
    for line in made.new:
        out.line(line, indent=2)
    if made.before and not made.new:
        out.line("  nothing is new in the sources")
    for line in settled_lines(made.settled, decisions_beside(path).name):
        out.line(line, indent=2)
    for group in made.plan.sources:
        for line in made.remarks.get(("sources", group.key), ()):
            if _DOUBT.search(line):
                out.line(line, indent=2)
    for column in made.plan.columns:
        for line in made.remarks.get(("columns", column.name), ()):
            if (
                not line.startswith(("also written", "missing in", "only in", "could become rows"))
                and line != "new"
            ):
                out.line((column.name, "bold"), f": {line}", indent=2)
    for line in made.remarks.get(("plan", ""), ()):
        if line.startswith("not a column of the plan"):
            out.line(line, indent=2)
    if accepted is not None:
        out.line(f"{accepted:,} guess{'' if accepted == 1 else 'es'} accepted")
    _open_guesses(made)
    out.line(f"next: read and edit it, then run  integrum assemble {path} --to TABLE.csv")


def change(made: Draft, path: Path) -> None:
    """Print how a plan file that is there changes."""
    if not made.before:
        return
    before, after = made.before.splitlines(), made.text(path.parent).splitlines()
    for line in unified_diff(before, after, str(path), f"{path}, updated", lineterm="", n=1):
        style = {"+": "green", "-": "red", "@": "dim"}.get(line[:1], "")
        out.line((line, style) if style else line)


def answers(counts: dict[str, int], made: Draft, path: Path) -> None:
    """Print how the questions were answered."""
    from integrum.cli.asking import asked_in
    from integrum.drafting.decision_file import decisions_beside

    chosen = f"{counts['chosen']:,} chosen, " if counts["chosen"] else ""
    out.line(
        f"\n{counts['yes']:,} accepted, {counts['no']:,} refused, {chosen}{len(asked_in(made)):,} still open; "
        f"the answers are in {path}"
    )
    if made.answers:
        out.line(f"kept for later drafts in {decisions_beside(path)}")


def made_page(page: Path, path: Path) -> None:
    """Say where the page of a draft is, and what to do with it."""
    from integrum.drafting.decision_file import decisions_beside

    out.line(f"page: {page}")
    out.line(
        f"next: open it in a browser, decide, download the decisions, then run  integrum draft --plan {path} "
        f"--decisions {decisions_beside(path).name}"
    )


def _open_guesses(made: Draft) -> None:
    """Say which guesses nobody has decided."""
    guesses = made.guesses
    if values := len(made.value_guesses):
        out.line(
            f"{values:,} value{'' if values == 1 else 's'} may be a different spelling of another value "
            "(--ask)"
        )
    if not guesses:
        return
    out.line(
        f"{len(guesses):,} guess{'' if len(guesses) == 1 else 'es'} to decide (--ask goes through them):"
    )
    for guess in guesses[:_MOST_GUESSES]:
        out.line(f'  {guess.score:.2f}  "{guess.header}" may be "{guess.column}"')
    if len(guesses) > _MOST_GUESSES:
        out.line(f"  and {len(guesses) - _MOST_GUESSES:,} more")


def outcome(
    made: Outcome, as_json: bool, quiet: bool = False, look: bool = True, drafted: bool = False
) -> None:
    """Print the summary of a run and the look at its result; to standard error where the table is printed.

    `drafted`: whether its plan was drafted for it.
    """
    from integrum.results.outcome import summary

    if as_json:
        out.text(_json(_outcome_data(made)))
        return
    where = err if quiet or (made.output is None and not made.parts) else out
    if quiet:
        if made.is_assembled and (made.lost or made.lost.missing):  # so that the exit status is no riddle
            where.line(str(made.lost))
        _problems([one for one in made.problems if one.severity == "error"], where, made.record)
        return
    lines = summary(made)
    where.line((lines[0], "bold"))
    key, colon, rest = lines[1].partition(":")
    where.line((key + colon, STYLES["error"] if rest else "bold"), (rest, "bold"))
    for line in lines[2:]:
        key, colon, rest = line.partition(":")
        plain = line.startswith("  ") or not colon
        where.line(line) if plain else where.line((key + colon, "dim"), rest)
        if key == "problems":
            _problems(made.problems, where, made.record)
    if look and where is out and made.is_assembled:
        out.line("")
        overview(made.overview(), headline=False)
    if look and made.record and not made.record_address:
        where.line("")
        place = shlex.quote(near(made.output or made.record))
        table = shlex.quote(near(made.parts[0].output)) if made.parts else place
        where.line(("next: ", "dim"), f"integrum report {place}    integrum trace {table} ROW")
        if drafted and made.output:
            plan = shlex.quote(near(made.output.parent / f"{made.output.name.partition('.')[0]}.toml"))
            where.line(
                ("keep: ", "dim"),
                f"this run drafted its plan, {near(made.record / 'plan.toml')}; to keep its decisions for the next run:",
            )
            where.line(f"      integrum draft {table} --plan {plan}")


def changes(found: Changes, as_json: bool) -> None:
    """Print what has changed since the last run."""
    if as_json:
        out.text(_json(found.to_dict()))
        return
    for line in found.lines(_MOST_CHANGES if out.is_terminal else len(found.sources) + len(found.headers)):
        if not out.is_terminal:
            out.text(f"{line}\n")
        elif line.startswith((" ", "since ")):
            out.wrapped(line)
        else:
            out.line((line, "bold"))


def verification(found: Verification, as_json: bool) -> None:
    """Print whether all is as a record says."""
    if as_json:
        out.text(_json(found.to_dict()))
        return
    *lines, last = found.lines(_MOST_CHANGES if out.is_terminal else len(found.findings))
    for line in lines:
        out.line(line)
    out.line((last, "green" if found.is_good else STYLES["error"]))


def overview(seen: Overview, headline: bool = True) -> None:
    """Print a screen about a result, with its first line or without."""
    first, *rest = seen.lines(out.console.width) if out.is_terminal else str(seen).splitlines()
    if headline:
        out.line((first, "bold"))
    else:
        rest = rest[rest.index("") + 1 :]  # what the run has said already
    for line in rest:
        out.wrapped(line) if out.is_terminal else out.text(f"{line}\n")


def trace(found: Trace) -> None:
    """Print where rows of a table came from; on a terminal the marks under cells stand out."""
    for line in str(found).splitlines():
        is_mark = set(line) <= {" ", "^"} and line.strip()
        is_title = line.startswith("row ") and " is from " in line
        style = (
            STYLES["warning"] if is_mark or line.lstrip().startswith("note: ") else "bold" if is_title else ""
        )
        out.line((line, style) if style else line)


def made_report(page: Path, as_json: bool, quiet: bool) -> None:
    """Say where the page about a run is."""
    where = err if as_json or quiet else out
    where.line(f"report: {near(page)}")
    where.line(f"codebook: {near(page.with_name(CODEBOOK))}")


def _problems(problems: Sequence[Problem], where: Screen, record: Path | None = None) -> None:
    """Print like problems together, those that cost data first."""
    from integrum.problems.grouped import grouped

    groups = grouped(problems)
    place = f"{near(record)}/problems.csv" if record else ""
    most = _MOST_PROBLEMS if where.is_terminal else len(groups)
    for group in groups[:most]:
        line, *others = (
            group.lines_with(place) if place else group.lines if where.is_terminal else group.all_lines
        )
        severity, rest = line.split(":", 1)
        where.line((severity, STYLES[severity]), f":{rest}", indent=2)
        for other in others:
            where.line((other.strip(), "dim"), indent=4)
    if len(groups) > most:
        rest = counted(len(groups) - most, "more kind") + " of problems"
        where.line(f"  and {rest}" + (f" in {place}" if place else ""))


def _json(data: Any) -> str:
    said = json.dumps(data, indent=2, ensure_ascii=False)
    return COMMANDS.sub(lambda found: f"\\u{ord(found[0]):04x}", said) + "\n"


def _survey_data(seen: Survey) -> dict[str, Any]:
    return {
        "common_folder": str(seen.base),
        "rows": seen.rows,
        "sources": [_source(one) for one in seen.sources],
        "variants": [asdict(variant) for variant in seen.variants],
        "columns": [asdict(column) | {"remarks": column.remarks} for column in seen.columns],
        "guesses": [asdict(guess) for guess in seen.guesses],
        "headers": [asdict(header) for header in seen.headers],
        "identifiers": {name: list(values) for name, values in seen.identifiers.items()},
        "problems": [asdict(problem) for problem in seen.problems],
    }


def _outcome_data(made: Outcome) -> dict[str, Any]:
    parts = made.parts or ((made,) if made.output or made.record else ())
    return {
        "status": made.status,
        "lost": made.lost.to_dict(),
        "rows": made.rows,
        "columns": [{"name": each.name, "type": str(each.type)} for each in made.schema],
        "outputs": [
            {
                "output": one.address or str(one.output),
                "record": one.record_address or str(one.record),
                "rows": one.rows,
            }
            for one in parts
        ],
        "sources": [_source(one) for one in made.sources],
        "problems": [asdict(problem) for problem in made.problems],
        "seal": made.seal,
        "taken_away": [str(path) for path in made.taken_away],
        "left": [str(path) for path in made.left],
        "changes": made.changes.to_dict() if made.changes is not None else None,
        "taken_over": made.taken_over,
        "why_all": made.why_all,
    }


def _source(one: SourceSummary) -> dict[str, Any]:
    """What became of a source; the parts of its ledger are named as everywhere machines read them."""
    parts: dict[str, int] = {str(part): count for part, count in one.ledger.counts.items()}
    said: dict[str, Any] = asdict(one)
    said |= said.pop("figures")
    return said | {"ledger": {"rows": one.ledger.rows} | parts}
