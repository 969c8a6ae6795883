"""The commands of the command line and their options."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NoReturn

from integrum import __version__
from integrum.plan.wrong_words import meant
from integrum.problems.problem import visible

_ABOUT = (
    "Many delimited files and workbooks become one table that can be trusted: every row knows its file and row, "
    "every line is accounted for."
)
_SHELLS = ("bash", "zsh", "tcsh")
# what a shell completes with the names of files
_FILES = ("FILE", "FOLDER", "TABLE", "WHERE", "PLAN", "PLAN|WHERE", "PLAN|TABLE")
_STATUS = (
    "Exit status: 0 assembled, and nothing is lost; 1 assembled, but data are lost, something that was expected is "
    "missing, or a check failed (with --strict: or there was a warning); 2 nothing was assembled."
)


def parser() -> argparse.ArgumentParser:
    """The commands and their options."""
    top = _Parser(
        "integrum", description=_ABOUT, epilog=_STATUS, allow_abbrev=False, formatter_class=_Formatter
    )
    top.add_argument("--version", action="version", version=f"integrum {__version__}")
    top.add_argument(
        "--completion",
        metavar="SHELL",
        choices=_SHELLS,
        action=_Completion,
        help=f"print a script for shell completion: {', '.join(_SHELLS)}",
    )
    top.add_argument(
        "--about",
        metavar="CODE",
        action=_About,
        help="print what a problem means and how to fix it, by the code in brackets behind it",
    )
    commands = top.add_subparsers(title="commands", metavar="COMMAND", dest="command", required=True)

    def command(name: str, said: str, status: str = "") -> argparse.ArgumentParser:
        made = commands.add_parser(
            name,
            help=said,
            description=said,
            epilog=status or None,
            allow_abbrev=False,
            formatter_class=_Formatter,
        )
        how_much = made.add_mutually_exclusive_group()
        how_much.add_argument("--quiet", action="store_true", help="print only errors and what was asked for")
        how_much.add_argument("--verbose", action="store_true", help="report each step on standard error")
        return made

    one = command(
        "survey",
        "Look at every source: header variants, types, missing sources, odd ones out. Writes nothing.",
    )
    _where(one, "WHERE", "folders, patterns (in quotes) and files; or a plan")
    one.add_argument(
        "--names",
        action="store_true",
        help="look only at the names: which sources are there, missing or duplicate",
    )
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command(
        "draft", "Write the plan that a survey suggests, with the evidence as comments. Read it and edit it."
    )
    _where(
        one, "WHERE", "folders, patterns (in quotes) and files; optional with --update or --decisions", "*"
    )
    one.add_argument(
        "--plan", metavar="FILE", type=Path, help="the plan file to write; without it the plan is printed"
    )
    one.add_argument("--replace", action="store_true", help="replace an existing plan file")
    one.add_argument(
        "--update",
        action="store_true",
        help="add what is new to an existing plan file; its decisions, order and comments stay",
    )
    one.add_argument(
        "--columns",
        metavar="NAMES|FILE",
        help="the columns that the table should have: their names with commas, or a file with [[columns]] as in a plan",
    )
    decide = one.add_mutually_exclusive_group()
    decide.add_argument(
        "--ask",
        action="store_true",
        help="ask about what is open one by one, and write the answers into the plan",
    )
    decide.add_argument(
        "--accept",
        metavar="SCORE",
        type=_score,
        help="accept all guesses with at least this score, such as 0.9",
    )
    one.add_argument(
        "--page",
        action="store_true",
        help="also make a page to look at and decide on, beside the plan; open it in a browser",
    )
    one.add_argument(
        "--decisions",
        metavar="FILE",
        type=Path,
        help="do what was decided on the page: the document that it gives. Decisions are kept beside the plan and hold for "
        "later drafts, too",
    )

    one = command("assemble", "Assemble sources into one table, as the plan says and nothing else.", _STATUS)
    _where(
        one,
        "PLAN|WHERE",
        "a plan file (.toml); or folders, patterns and files: a plan is then drafted for them",
    )
    one.add_argument(
        "--to",
        metavar="FILE",
        required=True,
        help="the table to write: a .csv, .csv.gz, .parquet, .arrow, .xlsx or .sqlite file, or - to print CSV; a name "
        'with identifiers ("{lake}.csv") makes one file for each value; "lakes.parquet/" makes a folder of Parquet files, '
        'and "lakes.parquet/lake={lake}/" divides it',
    )
    one.add_argument(
        "--record",
        metavar="FOLDER",
        type=Path,
        help='the folder that documents the run (default: beside the table, with its name and "-record")',
    )
    one.add_argument(
        "--guard-formulas",
        action="store_true",
        help="in CSV, put an apostrophe before cells that a spreadsheet program would read as formulas",
    )
    _allow_code(one)
    one.add_argument(
        "--report", action="store_true", help="also make a page about the run: report.html in the record"
    )
    one.add_argument(
        "--depends",
        metavar="FILE",
        type=Path,
        help="write on which files and folders the table depends, as a rule that make reads",
    )
    one.add_argument("--strict", action="store_true", help="exit with status 1 if there is any warning")
    one.add_argument(
        "--stop-at-first",
        action="store_true",
        help="stop at the first source that would be set aside, and write nothing",
    )
    one.add_argument(
        "--replace",
        action="store_true",
        help="write over a file in the place of the table that no run of Integrum wrote, or that was edited since",
    )
    one.add_argument(
        "--only-add",
        action="store_true",
        help="write nothing if any row of the table that is there would change or go",
    )
    _trust_times(one)
    one.add_argument(
        "--afresh",
        action="store_true",
        help="read every source again, also those that have not changed since the last run",
    )
    _workers(one)
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command(
        "changes",
        "Compare the sources with the last run: what is new, gone, renamed or changed. Writes nothing.",
        "Exit status: 0 nothing has changed; 1 something has; 2 it could not be compared.",
    )
    one.add_argument("of", metavar="PLAN|TABLE", help="a plan file (.toml), a table, or a record")
    one.add_argument(
        "--record", metavar="FOLDER", type=Path, help="the record to compare with (default: the last one)"
    )
    _trust_times(one)
    _allow_code(one)
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command(
        "verify",
        "Check that sources, plan, table and record are still those of the run, by their hashes.",
        "Exit status: 0 all is as recorded; 1 something is not; 2 it could not be checked.",
    )
    _out(one, ", or a folder or zip that integrum report --deposit has made")
    one.add_argument(
        "--again",
        action="store_true",
        help="also make the table once more, in a temporary folder, and compare all bytes",
    )
    one.add_argument(
        "--seal",
        metavar="SEAL",
        default="",
        help="also check that this is the seal of the table and its record",
    )
    _allow_code(one)
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command("script", "Write a plan as a short Python script that makes the same table.")
    one.add_argument("plan", metavar="PLAN", help="a plan file (.toml)")
    one.add_argument(
        "--to", metavar="FILE", type=Path, help="the script to write; without it the script is printed"
    )
    one.add_argument("--replace", action="store_true", help="replace an existing file")

    one = command(
        "trace",
        "Show the file and the line that a row of the table came from, and what was done to its values.",
    )
    _out(one)
    one.add_argument("rows", metavar="ROW", type=_whole, nargs="*", help="row numbers in the table, from 1")
    one.add_argument(
        "--where",
        metavar="CONDITION",
        default="",
        help="a condition instead of row numbers: \"water_temp > 40 and lake == 'Ambermere'\"; put names with "
        "spaces or signs in braces: {Temp (°C)} > 40",
    )
    one.add_argument(
        "--column", metavar="NAME", action="append", default=[], help="mark this column; may be repeated"
    )
    one.add_argument(
        "--most",
        metavar="N",
        type=_whole,
        default=5,
        help="trace at most N of the rows that match (default: 5)",
    )
    _allow_code(one)

    one = command(
        "overview", "Print a summary of a table: first and last rows, columns, rows per source, checks."
    )
    _out(one)

    one = command(
        "report",
        "Make pages about a run from its record (report.html, codebook.html, codebook.md), or a folder for an archive.",
    )
    _out(one)
    one.add_argument("--open", action="store_true", help="open the page in a web browser")
    one.add_argument(
        "--methods", action="store_true", help="print what was done, in words for a paper; make no page"
    )
    one.add_argument(
        "--deposit",
        metavar="FOLDER",
        type=Path,
        help="put the table, its record, codebook, plan and script into a folder for an archive, with checksums; "
        "a name that ends with .zip makes a packed one. integrum verify FOLDER checks it",
    )
    one.add_argument(
        "--with-sources", action="store_true", help="with --deposit: put the sources into it, too"
    )
    one.add_argument(
        "--replace",
        action="store_true",
        help="write over a page that was changed since it was made, or over a deposit that is there",
    )

    one = command("demo", "Write made-up data about lakes, and make one table of it, step by step.")
    one.add_argument(
        "folder",
        metavar="FOLDER",
        type=Path,
        nargs="?",
        default=Path("demo-lakes"),
        help="a new or empty folder",
    )
    one.add_argument("--data-only", action="store_true", help="write the data and stop there")
    one.add_argument(
        "--next-month",
        action="store_true",
        help="add the files of the next month to an existing demo folder, and stop there",
    )
    return top


def _workers(one: argparse.ArgumentParser) -> None:
    where = one.add_mutually_exclusive_group()
    where.add_argument(
        "--workers",
        metavar="N",
        type=_positive,
        help="do the work in N processes of this machine (default: in threads, one for each core)",
    )
    where.add_argument(
        "--cluster",
        metavar="ADDRESS",
        help="do the work on a Dask cluster that is there, such as tcp://host:8786",
    )
    one.add_argument(
        "--progress",
        action="store_true",
        help="print a line about the progress every two seconds, also to a file or a pipe",
    )


def _trust_times(one: argparse.ArgumentParser) -> None:
    one.add_argument(
        "--trust-times",
        action="store_true",
        help="take a source of the same size and time of change as unchanged, without reading it",
    )


def _allow_code(one: argparse.ArgumentParser) -> None:
    one.add_argument(
        "--allow-code",
        action="store_true",
        help='let the plan run functions from Python files beside it: read = "steps.py:depth"',
    )
    one.add_argument(
        "--code-from",
        metavar="FOLDER",
        type=Path,
        help="also from Python files in this folder and below",
    )


def _out(one: argparse.ArgumentParser, more: str = "") -> None:
    said = f"a table written by integrum assemble{',' if more else ', or'} its record{more}"
    one.add_argument("out", metavar="TABLE", help=said)


class _Parser(argparse.ArgumentParser):
    """Reports errors on two lines, with control characters shown."""

    def error(self, message: str) -> NoReturn:
        said = visible(self._in_words(message))
        self.exit(2, f"{self.prog}: {said}\n{self.prog} --help shows what can be given\n")

    def _in_words(self, message: str) -> str:
        """An error message of argparse in plain words."""
        choice = re.match(r"argument COMMAND: invalid choice: '(.*)' \(", message)
        if choice:
            names = [name for one in self._actions if isinstance(one.choices, dict) for name in one.choices]
            return f'unknown command "{choice[1]}"{meant(choice[1], names)}'
        if message == "the following arguments are required: --to":
            return "--to is missing: the table to write, such as --to table.csv"
        lacking = re.match(r"the following arguments are required: (.*)", message)
        return f"missing: {lacking[1].removesuffix(', ROW')}" if lacking else message


class _About(argparse.Action):
    """Prints the section of the docs about a problem."""

    def __call__(
        self,
        top: argparse.ArgumentParser,
        given: argparse.Namespace,  # noqa: ARG002
        code: Any,
        option: str | None = None,  # noqa: ARG002
    ) -> NoReturn:
        """Print it and end."""
        from integrum.problems.codes import CODES
        from integrum.problems.sections import section_of

        code = code.strip("[]")
        if code not in CODES:
            top.error(f'no problem has the code "{code}"{meant(code, CODES)}')
        sys.stdout.write(visible(section_of(code)) + "\n")
        raise SystemExit(0)


class _Completion(argparse.Action):
    """Prints a script that a shell completes the commands with."""

    def __call__(
        self,
        top: argparse.ArgumentParser,
        given: argparse.Namespace,  # noqa: ARG002
        shell: Any,
        option: str | None = None,  # noqa: ARG002
    ) -> NoReturn:
        """Print it and end."""
        import shtab

        for action in _all_actions(top):
            if action.metavar in _FILES:
                action.complete = shtab.FILE  # type: ignore[attr-defined]
        sys.stdout.write(shtab.complete(top, shell))
        raise SystemExit(0)


def _all_actions(one: argparse.ArgumentParser) -> Iterator[argparse.Action]:
    for action in one._actions:
        yield action
        if isinstance(action, argparse._SubParsersAction):
            for parser in action.choices.values():
                yield from _all_actions(parser)


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
        raise argparse.ArgumentTypeError(f"expected a number from 0 to 1, got {text}")
    return value


def _whole(text: str) -> int:
    try:
        return int(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"expected a whole number, got {text}") from None


def _access(text: str) -> tuple[str, str | bool]:
    name, equal, value = text.partition("=")
    if not (name and equal):
        raise argparse.ArgumentTypeError(f"expected NAME=VALUE, got {text}")
    return name, {"true": True, "false": False}.get(value, value)


def _positive(text: str) -> int:
    number = _whole(text)
    if number < 1:
        raise argparse.ArgumentTypeError(f"expected 1 or more, got {text}")
    return number


def _where(one: argparse.ArgumentParser, name: str, said: str, number: str = "+") -> None:
    one.add_argument("where", metavar=name, nargs=number, help=said)
    one.add_argument(
        "--ids",
        metavar="SCHEME",
        action="append",
        default=[],
        help='columns from the ends of the paths, such as "{lake}_{month}.csv" or "*{year}*.csv"; again for another scheme',
    )
    one.add_argument(
        "--sheets",
        metavar="NAME",
        action="append",
        default=[],
        help="a sheet of workbooks to read: a name or a pattern; with ! in front, one to skip; may be "
        "repeated",
    )
    one.add_argument(
        "--exclude",
        metavar="PATTERN",
        action="append",
        default=[],
        help='files to skip, such as "*_old.csv"; may be repeated',
    )
    one.add_argument(
        "--access",
        metavar="NAME=VALUE",
        action="append",
        default=[],
        type=_access,
        help="an option for remote places, a secret only by its name in the environment: 'secret=$LAKES_SECRET'; may "
        "be repeated",
    )
    one.add_argument("--expect", metavar="N", type=_whole, help="how many sources there should be")
