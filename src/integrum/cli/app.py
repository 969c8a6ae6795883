"""The command line: its commands, their options, and what every one of them has in common."""

from __future__ import annotations

import argparse
import contextlib
import os
import signal
import sys
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, NoReturn

from integrum import __version__
from integrum.errors import IntegrumError
from integrum.problems import visible

# what the commands need is loaded when they run, so that help comes at once
if TYPE_CHECKING:
    from integrum.plan.sources import Sources

NOTHING = 2
INTERRUPTED = 130
_INTERRUPTED = "interrupted; nothing was written"
# seconds for the run to clean up after itself
_PATIENCE = 10.0

_ABOUT = (
    "Many delimited files and workbooks become one table that can be trusted: every row knows its file and row, "
    "every line is accounted for."
)
_STATUS = (
    "Exit status: 0 assembled; 1 assembled, but a source was set aside or is absent (with --strict: any warning too); "
    "2 nothing assembled."
)


def parser() -> argparse.ArgumentParser:
    """The commands and their options."""
    top = _Parser(
        "integrum", description=_ABOUT, epilog=_STATUS, allow_abbrev=False, formatter_class=_Formatter
    )
    top.add_argument("--version", action="version", version=f"integrum {__version__}")
    commands = top.add_subparsers(title="commands", metavar="COMMAND", dest="command", required=True)

    def command(name: str, said: str) -> argparse.ArgumentParser:
        made = commands.add_parser(
            name, help=said, description=said, allow_abbrev=False, formatter_class=_Formatter
        )
        how_much = made.add_mutually_exclusive_group()
        how_much.add_argument(
            "--quiet", action="store_true", help="print errors, and what was asked for; nothing else"
        )
        how_much.add_argument(
            "--verbose", action="store_true", help="say on standard error what is being done, step by step"
        )
        return made

    one = command(
        "survey",
        "Look at every source: header variants, types, what is absent, the odd ones out. Writes nothing.",
    )
    _where(one, "WHERE", "folders, patterns (quote them) and files; or a plan")
    one.add_argument(
        "--names",
        action="store_true",
        help="look at the names alone: what is there, absent, or there twice",
    )
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command(
        "draft", "Write the plan that a survey suggests, with the evidence as comments. Read it and edit it."
    )
    _where(one, "WHERE", "folders, patterns (quote them) and files; with --update it may be left out", "*")
    one.add_argument(
        "--plan", metavar="FILE", type=Path, help="the plan file to write; standard output when left out"
    )
    one.add_argument("--replace", action="store_true", help="replace a plan file that is there")
    one.add_argument(
        "--update",
        action="store_true",
        help="add what is new to a plan file that is there; its decisions, order and comments stay",
    )
    one.add_argument(
        "--columns",
        metavar="FILE",
        type=Path,
        help="the columns that the table shall have: a file with [[columns]], as in a plan",
    )
    decide = one.add_mutually_exclusive_group()
    decide.add_argument(
        "--ask",
        action="store_true",
        help="ask about the guesses one by one, and write the answers into the plan",
    )
    decide.add_argument(
        "--accept",
        metavar="SCORE",
        type=_score,
        help="accept all guesses from this score on, such as 0.9",
    )

    one = command("assemble", "Assemble sources into one table, as the plan says and nothing else.")
    _where(
        one,
        "PLAN|WHERE",
        "a plan file (.toml); or folders, patterns and files: then a plan is drafted on the fly",
    )
    one.add_argument(
        "--to",
        metavar="OUT",
        required=True,
        help="a .csv, .csv.gz, .parquet, .arrow or .xlsx file, or - for CSV on standard output; identifiers in the name "
        '("{lake}.csv") give one output for each value',
    )
    one.add_argument(
        "--record",
        metavar="FOLDER",
        type=Path,
        help="the folder that documents the run; OUT-record beside OUT when left out",
    )
    one.add_argument(
        "--guard-formulas",
        action="store_true",
        help="in CSV, put an apostrophe before cells that a spreadsheet program would take for formulas",
    )
    one.add_argument(
        "--allow-code",
        action="store_true",
        help='run the functions that the plan names in Python files: read = "steps.py:depth"',
    )
    one.add_argument("--strict", action="store_true", help="exit with 1 for any warning, too")
    one.add_argument(
        "--stop-at-first",
        action="store_true",
        help="stop at the first source that has to be set aside; nothing is written then",
    )
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command("demo", "Write made-up lakes data, and go the whole way through it.")
    one.add_argument(
        "folder",
        metavar="FOLDER",
        type=Path,
        nargs="?",
        default=Path("demo-lakes"),
        help="a new or empty folder",
    )
    return top


class _Parser(argparse.ArgumentParser):
    """Says what is wrong on one line; what was typed may be the name of a file that somebody else has chosen."""

    def error(self, message: str) -> NoReturn:
        super().error(visible(message))


class _Formatter(argparse.HelpFormatter):
    """Help with room for the names of options, and the commands without a heading of their own."""

    def __init__(self, prog: str) -> None:
        super().__init__(prog, max_help_position=30)

    def _format_action(self, action: argparse.Action) -> str:
        if isinstance(action, argparse._SubParsersAction):
            return "".join(map(self._format_action, action._get_subactions()))
        return super()._format_action(action)


def _score(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not 0 <= value <= 1:
        raise argparse.ArgumentTypeError(f"expected a number from 0 to 1; came {text}")
    return value


def _where(one: argparse.ArgumentParser, name: str, said: str, number: str = "+") -> None:
    one.add_argument("where", metavar=name, nargs=number, help=said)
    one.add_argument(
        "--ids",
        metavar="SCHEME",
        default="",
        help='columns from the ends of the paths, such as "{lake}_{month}.csv"',
    )
    one.add_argument(
        "--sheets",
        metavar="NAME",
        action="append",
        default=[],
        help="which sheets of workbooks: a name or a pattern, with ! before it those not to take; may be repeated",
    )
    one.add_argument("--expect", metavar="N", type=int, help="how many sources there should be")


def survey(given: argparse.Namespace) -> int:
    """Print what a survey finds; of a single file its rows, too."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    places = _places(given)
    with progress("looking") as watch:
        seen = ig.survey(places, contents=not given.names, watch=watch)
    show.survey(seen, given.json)
    lone = given.where[0] if len(given.where) == 1 and len(seen.sources) == 1 else ""
    if lone and os.path.isfile(lone) and not lone.lower().endswith(".toml"):
        source = seen.sources[0]
        if source.is_assembled and not given.json and not given.names:
            show.one_source(ig.look(ig.Sources(lone, sheets=[source.sheet]) if source.sheet else lone))
    return int(any(one.code in ("source-count", "source-absent") for one in seen.problems))


def draft(given: argparse.Namespace) -> int:
    """Write the plan that a survey suggests, or add to one that is there; decide guesses."""
    path: Path | None = given.plan
    if given.update and (path is None or not os.path.exists(path)):
        _stop("--update needs a plan file that is there: --plan FILE")
    if given.update and given.columns:
        _stop("--columns is for a new plan; with --update the columns are those of the plan")
    if path and os.path.exists(path) and not given.replace and not given.update:
        _stop(
            f"{path} is there already, and may hold your edits; add --update to add what is new, "
            "name another file, or add --replace"
        )
    if given.ask and path is None:
        _stop("--ask writes the answers into the plan; name it: --plan FILE")
    if not given.where and not given.update:
        _stop("say where the sources are: folders, patterns or files")
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import progress

    with progress("looking") as watch:
        where = _places(given) if given.where else []
        made = ig.draft(where, columns=given.columns, onto=path if given.update else None, watch=watch)

    def write() -> None:
        try:
            made.save(path or "")
        except OSError as error:
            _stop(f"cannot write {path}: {error.strerror}")

    accepted = made.accept(given.accept) if given.accept is not None else []
    if path:
        show.change(made, path)
        write()
    show.draft(made, path, len(accepted) if given.accept is not None else None)
    if given.ask and path:
        from integrum.cli.asking import ask

        show.answers(ask(made, write), made, path)
    return 0


def assemble(given: argparse.Namespace) -> int:
    """Assemble sources, and print what became of them."""
    if given.json and given.to == "-":
        _stop("--json and --to - both want standard output; give a file as --to")
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.screen import plain_table, progress
    from integrum.problems import number_of

    with plain_table(given.to == "-"), progress("assembling") as watch:
        outcome = ig.assemble(
            _places(given),
            given.to,
            record=given.record,
            guard_formulas=given.guard_formulas,
            allow_code=given.allow_code,
            stop_at_first=given.stop_at_first,
            watch=watch,
        )
    show.outcome(outcome, given.json)
    warned = given.strict and number_of("warning", outcome.problems) > 0
    return max(outcome.status, int(warned))


def demo(given: argparse.Namespace) -> int:
    """Go the whole way through made-up data."""
    from integrum.cli.tour import tour

    tour(given.folder)
    return 0


_COMMANDS = {"survey": survey, "draft": draft, "assemble": assemble, "demo": demo}


def _places(given: argparse.Namespace) -> str | list[str] | list[Sources]:
    """A plan file, or where the sources are."""
    where: list[str] = given.where
    said = bool(given.ids or given.sheets or given.expect is not None)
    plans = [one for one in where if one.lower().endswith(".toml")]
    if plans and len(where) > 1:
        _stop(f"give one plan, or places where sources are, not both: {', '.join(where)}")
    if plans and said:
        _stop("a plan says itself what its ids and sheets are and what to expect; write it there")
    if plans:
        return plans[0]
    if not said:
        return where
    from integrum.plan.sources import Sources

    return [Sources(where, ids=given.ids, sheets=given.sheets, expect=given.expect)]


def run() -> None:
    """Run the command line; every error that a user can cause ends in a line on standard error."""
    signal.signal(signal.SIGINT, _interrupt)
    signal.signal(signal.SIGTERM, _interrupt)
    for stream in (sys.stdout, sys.stderr):  # a letter that a code page lacks is no reason to fail
        with contextlib.suppress(AttributeError, ValueError):
            stream.reconfigure(errors="backslashreplace")  # type: ignore[union-attr]
    if len(sys.argv) == 1:
        parser().print_help()
        raise SystemExit(NOTHING)
    given = parser().parse_args()
    try:
        status = _COMMANDS[given.command](given)
        sys.stdout.flush()
    except IntegrumError as error:
        _stop(str(error))
    except BrokenPipeError:
        # the reader of standard output has had enough
        with contextlib.suppress(OSError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(1) from None
    except _Interrupted:
        _leave()
    raise SystemExit(status)


def _stop(message: str, status: int = NOTHING) -> NoReturn:
    sys.stderr.write(visible(f"integrum: {message}\n"))
    raise SystemExit(status)


class _Interrupted(BaseException):
    """Unwinds the run, so that it cleans up after itself."""


def _interrupt(number: int, frame: FrameType | None) -> NoReturn:  # noqa: ARG001
    if hasattr(signal, "setitimer"):  # what is left to do is little; if it hangs nevertheless, leave it
        signal.signal(signal.SIGALRM, _give_up)
        signal.setitimer(signal.ITIMER_REAL, _PATIENCE)
    raise _Interrupted


def _give_up(number: int, frame: FrameType | None) -> NoReturn:  # noqa: ARG001
    """End at once; what was being written has hidden names, and the next run sweeps it away."""
    _leave()


def _leave() -> NoReturn:
    """End without waiting for what threads are still at."""
    os.write(2, f"integrum: {_INTERRUPTED}\n".encode())
    os._exit(INTERRUPTED)
