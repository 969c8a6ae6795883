"""The commands of the command line and their options."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import NoReturn

from integrum import __version__
from integrum.problems import visible

_ABOUT = (
    "Many delimited files and workbooks become one table that can be trusted: every row knows its file and row, "
    "every line is accounted for."
)
_STATUS = (
    "Exit status: 0 assembled; 1 assembled, but a source was set aside or is absent, or a check failed "
    "(with --strict: any warning too); "
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
    one.add_argument(
        "--report", action="store_true", help="make the page about the run, too: report.html in the record"
    )
    one.add_argument("--strict", action="store_true", help="exit with 1 for any warning, too")
    one.add_argument(
        "--stop-at-first",
        action="store_true",
        help="stop at the first source that has to be set aside; nothing is written then",
    )
    one.add_argument("--json", action="store_true", help="print JSON for machines")

    one = command(
        "trace",
        "Show the file and the very line that a row of a table came from, and what the plan did to it.",
    )
    _out(one)
    one.add_argument("rows", metavar="ROW", type=int, nargs="*", help="numbers of rows in the table, from 1")
    one.add_argument(
        "--where",
        metavar="EXPR",
        default="",
        help="instead of numbers a condition: \"water_temp > 40 and lake == 'Ambermere'\"; "
        "a name that is no plain word stands in braces: {Temp (°C)} > 40",
    )
    one.add_argument(
        "--column", metavar="NAME", action="append", default=[], help="mark this column; may be repeated"
    )
    one.add_argument(
        "--most", metavar="N", type=int, default=5, help="trace so many of the rows that fit (5)"
    )
    one.add_argument("--allow-code", action="store_true", help="run the functions that the plan names again")

    one = command(
        "overview", "Print a screen about a result: first and last rows, columns, rows per source, checks."
    )
    _out(one)

    one = command("report", "Make one page about a run from its record: report.html, in the record.")
    _out(one)
    one.add_argument("--open", action="store_true", help="open it in the web browser")

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


def _out(one: argparse.ArgumentParser) -> None:
    one.add_argument("out", metavar="OUT", help="a table that a run has written, or its record")


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
