"""The command line: its commands, their options, and what every one of them has in common."""

from __future__ import annotations

import argparse
import contextlib
import logging
import os
import signal
import sys
from collections.abc import Iterator
from concurrent.futures import Executor
from pathlib import Path
from types import FrameType
from typing import Any, NoReturn

from integrum.cli.leaving import leave
from integrum.cli.options import parser
from integrum.cli.words import with_right_words
from integrum.errors import PAGES_NEED, IntegrumError, check_extra
from integrum.problems.problem import lack_of, visible
from integrum.remote.addresses import is_remote

# what the commands need is loaded when they run, so that help comes at once
NOTHING = 2
# seconds for the run to clean up after itself
_PATIENCE = 10.0


def survey(given: argparse.Namespace) -> int:
    """Print what a survey finds; of a single file its rows, too."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    places = _places(given)
    with progress("looking") as watch:
        seen = ig.survey(places, contents=not given.names, watch=watch, **_choice(given))
    show.survey(seen, given.json)
    lone = given.where[0] if len(given.where) == 1 and len(seen.sources) == 1 else ""
    if lone and os.path.isfile(lone) and not lone.lower().endswith(".toml"):
        source = seen.sources[0]
        if source.is_assembled and not given.json and not given.names:
            show.one_source(ig.look(ig.Sources(lone, sheets=[source.sheet]) if source.sheet else lone))
    return int(any(one.kind.is_absence for one in seen.problems))


def draft(given: argparse.Namespace) -> int:
    """Write the plan that a survey suggests, or add to one that is there; decide guesses."""
    path: Path | None = given.plan
    there = path is not None and os.path.exists(path)
    # decisions are merged into a plan that is there
    given.update = given.update or (given.decisions is not None and there and not given.replace)
    if given.update and not there:
        _stop("--update needs an existing plan file: --plan FILE")
    if given.update and given.columns:
        _stop("--columns is for a new plan; with --update the columns come from the existing plan")
    if path and there and not given.replace and not given.update:
        _stop(
            f"{path} already exists and may have your edits in it; add --update to add what is new, give "
            "another file name, or add --replace"
        )
    if given.ask and path is None:
        _stop("--ask writes the answers into a plan; add --plan FILE")
    if given.page and path is None:
        _stop("--page is written beside a plan; add --plan FILE")
    if given.page:
        check_extra("a page", "pages", *PAGES_NEED)
    if not given.where and not given.update:
        _stop("no sources given; name folders, patterns or files")
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    with progress("looking") as watch:
        where = _places(given) if given.where else []
        made = ig.draft(
            where,
            columns=given.columns,
            onto=path if given.update else None,
            decisions=_decisions(given),
            watch=watch,
            **_choice(given),
        )

    def write() -> None:
        try:
            made.save(path or "")
        except OSError as error:
            _stop(f"cannot write {path}: {error.strerror}")

    accepted = made.accept(given.accept) if given.accept is not None else []
    if path:
        if os.path.exists(path):
            show.change(made, path)
        write()
    show.draft(made, path, len(accepted) if given.accept is not None else None)
    if given.ask and path:
        from integrum.cli.asking import ask

        show.answers(ask(made, write), made, path)
    if given.page and path:
        show.made_page(made.page(path, replace=given.replace).path, path)
    return 0


def _decisions(given: argparse.Namespace) -> list[Path]:
    """The documents of decisions for a draft: the one kept beside the plan, then the given one.

    Of a plan that is there the call itself takes the kept ones, as the plan goes before them.
    """
    from integrum.drafting.decision_file import decisions_beside

    kept = [] if given.update or not given.plan else [decisions_beside(given.plan)]
    return [*(one for one in kept if os.path.exists(one)), *([given.decisions] if given.decisions else [])]


def assemble(given: argparse.Namespace) -> int:
    """Assemble sources, and print what became of them."""
    if given.report and is_remote(given.to):
        _stop(
            "--report is for a table on this machine; copy the record from its place, and run integrum report on it"
        )
    if given.report:
        check_extra("a report", "pages", *PAGES_NEED)
    if given.json and given.to == "-":
        _stop("--json and --to - both write to standard output; give a file to --to")
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import plain_table, progress
    from integrum.problems.problem import number_of

    with (
        plain_table(given.to == "-"),
        progress("assembling", given.progress) as watch,
        _executor(given) as executor,
    ):
        outcome = ig.assemble(
            _places(given),
            given.to,
            **_choice(given),
            record=given.record,
            guard_formulas=given.guard_formulas,
            allow_code=given.code_from or given.allow_code,
            stop_at_first=given.stop_at_first,
            only_add=given.only_add,
            trust_times=given.trust_times,
            afresh=given.afresh,
            replace=given.replace,
            depends=given.depends,
            executor=executor,
            watch=watch,
        )
    show.outcome(outcome, given.json, given.quiet, drafted=not given.where[0].lower().endswith(".toml"))
    if given.report and outcome.record:
        page = ig.report(outcome.record)
        show.made_report(page, given.json, given.quiet)
    warned = given.strict and number_of("warning", outcome.problems) > 0
    return max(outcome.status, int(warned))


def changes(given: argparse.Namespace) -> int:
    """Print what has changed since the last run."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    with progress("comparing") as watch:
        found = ig.changes(
            given.of,
            record=given.record,
            trust_times=given.trust_times,
            allow_code=given.code_from or given.allow_code,
            watch=watch,
        )
    show.changes(found, given.json)
    return int(bool(found))


def verify(given: argparse.Namespace) -> int:
    """Print whether all is as a record says."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    with progress("verifying") as watch:
        found = ig.verify(
            given.out,
            again=given.again,
            seal=given.seal,
            allow_code=given.code_from or given.allow_code,
            watch=watch,
        )
    show.verification(found, given.json)
    return int(not found.is_good)


def script(given: argparse.Namespace) -> int:
    """Write a plan as a Python script, or print it."""
    import integrum as ig
    from integrum.cli.screen import out

    text = ig.script(given.plan, given.to, replace=given.replace)
    if given.to is None:
        out.text(text)
    else:
        out.line(f"script: {given.to}")
        out.line(f"next: python {given.to} TABLE.csv")
    return 0


def trace(given: argparse.Namespace) -> int:
    """Print where rows of a table came from."""
    if bool(given.rows) == bool(given.where):
        _stop("give row numbers or --where CONDITION")
    import integrum as ig
    from integrum.cli import show

    found = ig.trace(
        given.out,
        given.rows,
        where=given.where,
        columns=given.column,
        most=max(given.most, 1),
        allow_code=given.code_from or given.allow_code,
    )
    show.trace(found)
    return 0


def overview(given: argparse.Namespace) -> int:
    """Print a screen about a result."""
    import integrum as ig
    from integrum.cli import show

    show.overview(ig.overview(given.out))
    return 0


def report(given: argparse.Namespace) -> int:
    """Make the pages about a run, or a folder for an archive."""
    if given.with_sources and not given.deposit:
        _stop("--with-sources needs a folder for the archive: --deposit FOLDER")
    if given.methods and (given.deposit or given.open):
        _stop("--methods prints a text and makes nothing; leave out --deposit and --open")
    if given.open and given.deposit:
        _stop("--open shows the page, and --deposit makes a folder; give one of them")
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import out
    from integrum.problems.problem import near

    if given.methods:
        out.text(ig.read_record(given.out).methods)
        return 0
    if given.deposit:
        place = ig.deposit(given.out, given.deposit, with_sources=given.with_sources, replace=given.replace)
        out.line(f"deposit: {near(place)}")
        again = " --again" if given.with_sources else ""
        out.line(f"next: integrum verify {near(place)}{again}")
        return 0
    page = ig.report(given.out, replace=given.replace)
    show.made_report(page, False, False)
    if given.open:
        import webbrowser

        if not webbrowser.open(page.as_uri()):
            _stop(f"no web browser could be opened; the page is {page}", 1)
    return 0


def demo(given: argparse.Namespace) -> int:
    """Write made-up data, and make a table of it."""
    if given.next_month:
        from integrum.cli.screen import out
        from integrum.demo.lakes import add_next_month

        for line in add_next_month(given.folder):
            out.line(line)
        return 0
    if given.data_only:
        from integrum.cli.screen import out
        from integrum.demo.lakes import write_demo

        out.line(f"data: {write_demo(given.folder)}")
        return 0
    from integrum.cli.tour import tour

    tour(given.folder)
    return 0


_COMMANDS = {
    "survey": survey,
    "draft": draft,
    "assemble": assemble,
    "changes": changes,
    "verify": verify,
    "script": script,
    "trace": trace,
    "overview": overview,
    "report": report,
    "demo": demo,
}


def _places(given: argparse.Namespace) -> str | list[str]:
    """A plan file, or where the sources are."""
    where: list[str] = given.where
    plans = [one for one in where if one.lower().endswith(".toml")]
    if plans and len(where) > 1:
        _stop(f"give one plan, or folders and files, not both: {', '.join(where)}")
    return plans[0] if plans else where


@contextlib.contextmanager
def _executor(given: argparse.Namespace) -> Iterator[Executor | None]:
    """Where the work is done, as the options say."""
    if given.workers:
        from integrum.workers.elsewhere import processes

        with processes(given.workers) as executor:
            yield executor
    elif given.cluster:
        from integrum.workers.elsewhere import cluster

        with cluster(given.cluster) as executor:
            yield executor
    else:
        yield None


def _choice(given: argparse.Namespace) -> dict[str, Any]:
    """What the options say of the sources."""
    return {
        "ids": given.ids,
        "sheets": given.sheets,
        "exclude": given.exclude,
        "expect": given.expect,
        "access": dict(given.access) or None,
    }


def run() -> None:
    """Run the command line; every error that a user can cause ends in a line on standard error."""
    for stream in (sys.stdout, sys.stderr):  # a letter that a code page lacks is no reason to fail
        with contextlib.suppress(AttributeError, ValueError):
            stream.reconfigure(errors="backslashreplace")  # type: ignore[union-attr]
    if len(sys.argv) == 1:
        parser().print_help()
        raise SystemExit(NOTHING)
    top = parser()
    given = top.parse_args(with_right_words(top, sys.argv[1:]))
    _listen(given)
    try:
        sys.unraisablehook = _unraisable
        signal.signal(signal.SIGINT, _interrupt)
        signal.signal(signal.SIGTERM, _interrupt)
        status = _COMMANDS[given.command](given)
        sys.stdout.flush()
        for number in (signal.SIGINT, signal.SIGTERM):  # there is nothing left to interrupt
            signal.signal(number, signal.SIG_IGN)
    except BaseException as error:
        if _came or isinstance(error, _Interrupted):  # whatever an interrupt has become on its way up
            leave()
        _end(error)
    raise SystemExit(status)


def _end(error: BaseException) -> NoReturn:
    """End a command that failed."""
    if isinstance(error, IntegrumError):
        _stop(str(error))
    if isinstance(error, BrokenPipeError):
        # the reader of standard output has had enough
        with contextlib.suppress(OSError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(1) from None
    short, hint = lack_of(error)
    if short:
        _stop(f"{short}; {hint}; nothing was written")
    raise error


def _unraisable(found: sys.UnraisableHookArgs) -> None:
    """End the run also for an interrupt that cannot be raised."""
    if isinstance(found.exc_value, _Interrupted):
        leave()
    sys.__unraisablehook__(found)


def _listen(given: argparse.Namespace) -> None:
    """Print as much as asked for: each step with --verbose, only errors and results with --quiet."""
    from integrum.cli.screen import err

    err.is_quiet = given.quiet or given.verbose
    if given.verbose:
        handler = logging.StreamHandler()
        handler.setFormatter(_Line("%(asctime)s  %(message)s", "%H:%M:%S"))
        log = logging.getLogger("integrum")
        log.addHandler(handler)
        log.setLevel(logging.DEBUG)


class _Line(logging.Formatter):
    """Formats log messages; control characters in them are shown, not sent."""

    def format(self, record: logging.LogRecord) -> str:
        return visible(super().format(record))


def _stop(message: str, status: int = NOTHING) -> NoReturn:
    sys.stderr.write(visible(f"integrum: {message}\n"))
    raise SystemExit(status)


class _Interrupted(BaseException):
    """Ends the run, so that it cleans up."""


# the signals that came
_came: list[int] = []


def _interrupt(number: int, frame: FrameType | None) -> NoReturn:  # noqa: ARG001
    if hasattr(signal, "setitimer"):  # what is left to do is little; if it hangs nevertheless, leave it
        signal.signal(signal.SIGALRM, _give_up)
        signal.setitimer(signal.ITIMER_REAL, _PATIENCE)
    _came.append(number)
    raise _Interrupted


def _give_up(number: int, frame: FrameType | None) -> NoReturn:  # noqa: ARG001
    """End at once. What was being written has hidden names, and the next run removes it."""
    leave()
