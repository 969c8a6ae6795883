"""The commands and their options."""

from __future__ import annotations

import contextlib
import os
import signal
import sys
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

from integrum import __version__
from integrum.errors import IntegrumError

if TYPE_CHECKING:
    from integrum.plan.model import Sources

NOTHING = 2
INTERRUPTED = 130

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode="rich",
    pretty_exceptions_enable=False,
    help="Many delimited files and workbooks become one table that can be trusted: every row knows its file and row, "
    "every line is accounted for.",
    epilog="Exit status: 0 assembled; 1 assembled, but a source was set aside or is absent "
    "(with --strict: any warning too); 2 nothing assembled.",
)

WhereArgument = Annotated[
    list[str],
    typer.Argument(metavar="WHERE...", help="Folders, patterns (quote them) and files.", show_default=False),
]
IdsOption = Annotated[
    str,
    typer.Option(
        metavar="SCHEME",
        help='Columns from the ends of the paths, such as "{lake}_{month}.csv".',
        show_default=False,
    ),
]
ExpectOption = Annotated[
    int | None, typer.Option(metavar="N", help="How many sources there should be.", show_default=False)
]
SheetsOption = Annotated[
    list[str],
    typer.Option(
        "--sheets",
        metavar="NAME",
        help="Which sheets of workbooks: a name or a pattern, with ! before it those not to take. May be repeated.",
        show_default=False,
    ),
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON for machines.")]


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"integrum {__version__}")
        raise typer.Exit


@app.callback()
def _start(
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", callback=_version, is_eager=True)
    ] = False,
) -> None:
    pass


@app.command()
def survey(
    where: Annotated[
        list[str],
        typer.Argument(
            metavar="WHERE...",
            help="Folders, patterns (quote them) and files; or a plan.",
            show_default=False,
        ),
    ],
    ids: IdsOption = "",
    sheets: SheetsOption = [],  # noqa: B006
    expect: ExpectOption = None,
    names: Annotated[
        bool, typer.Option("--names", help="Look at the names alone: what is there, absent, or there twice.")
    ] = False,
    json: JsonOption = False,
) -> None:
    """Look at every source: header variants, types, what is absent, the odd ones out. Writes nothing."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.terminal import progress

    places = _places(where, ids, expect, sheets)
    with progress("looking") as watch:
        seen = ig.survey(places, contents=not names, watch=watch)
    show.survey(seen, json)
    alone = len(where) == 1 and len(seen.sources) == 1 and seen.sources[0].status == "assembled"
    if (
        alone
        and not json
        and not names
        and Path(where[0]).is_file()
        and not where[0].lower().endswith(".toml")
    ):
        sheet = seen.sources[0].sheet
        show.one_source(ig.look(ig.Sources(where, sheets=[sheet]) if sheet else where[0]))


@app.command()
def draft(
    where: WhereArgument,
    plan: Annotated[
        Path | None, typer.Option(metavar="P", help="The plan file to write; standard output when left out.")
    ] = None,
    ids: IdsOption = "",
    sheets: SheetsOption = [],  # noqa: B006
    expect: ExpectOption = None,
    replace: Annotated[bool, typer.Option("--replace", help="Replace a plan file that is there.")] = False,
) -> None:
    """Write the plan that a survey suggests, with the evidence as comments. Read it and edit it."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.terminal import progress

    if plan and plan.exists() and not replace:
        _stop(f"{plan} is there already, and may hold your edits; name another file, or add --replace")
    with progress("looking") as watch:
        made = ig.draft(_places(where, ids, expect, sheets), watch=watch)
    if plan:
        try:
            made.save(plan)
        except OSError as error:
            _stop(f"cannot write {plan}: {error.strerror}")
    show.draft(made, plan)


@app.command()
def assemble(
    what: Annotated[
        list[str],
        typer.Argument(
            metavar="PLAN|WHERE...",
            help="A plan file (.toml); or folders, patterns and files: then a plan is drafted on the fly.",
            show_default=False,
        ),
    ],
    to: Annotated[
        str,
        typer.Option(
            metavar="OUT",
            help="A .csv, .parquet or .xlsx file, or - for CSV on standard output. "
            'Identifiers in the name ("{lake}.csv") give one output for each value.',
            show_default=False,
        ),
    ],
    record: Annotated[
        Path | None,
        typer.Option(
            metavar="DIR", help="The folder that documents the run.", show_default="OUT-record beside OUT"
        ),
    ] = None,
    ids: IdsOption = "",
    sheets: SheetsOption = [],  # noqa: B006
    expect: ExpectOption = None,
    guard_formulas: Annotated[
        bool,
        typer.Option(
            "--guard-formulas",
            help="In CSV, put an apostrophe before cells that a spreadsheet program would take for formulas.",
        ),
    ] = False,
    strict: Annotated[bool, typer.Option("--strict", help="Exit with 1 for any warning, too.")] = False,
    json: JsonOption = False,
) -> None:
    """Assemble sources into one table, as the plan says and nothing else."""
    import integrum as ig
    from integrum.cli import show
    from integrum.cli.terminal import progress
    from integrum.problems import number_of

    if json and to == "-":
        _stop("--json and --to - both want standard output; give a file as --to")
    with progress("assembling") as watch:
        outcome = ig.assemble(
            _places(what, ids, expect, sheets), to, record=record, guard_formulas=guard_formulas, watch=watch
        )
    show.outcome(outcome, json)
    warned = strict and number_of("warning", outcome.problems) > 0
    raise typer.Exit(max(outcome.status, int(warned)))


@app.command()
def demo(
    folder: Annotated[Path, typer.Argument(metavar="FOLDER", help="A new or empty folder.")] = Path(
        "demo-lakes"
    ),
) -> None:
    """Write made-up lakes data, and go the whole way through it."""
    from integrum.cli.tour import tour

    tour(folder)


def _places(
    where: list[str], ids: str, expect: int | None, sheets: list[str]
) -> str | list[str] | list[Sources]:
    """A plan file, or where the sources are."""
    plans = [one for one in where if one.lower().endswith(".toml")]
    if plans and len(where) > 1:
        _stop(f"give one plan, or places where sources are, not both: {', '.join(where)}")
    if plans and (ids or sheets or expect is not None):
        _stop("a plan says itself what its ids and sheets are and what to expect; write it there")
    if plans:
        return plans[0]
    if not ids and not sheets and expect is None:
        return where
    from integrum.plan.model import Sources

    return [Sources(where, ids=ids, sheets=sheets, expect=expect)]


def run() -> None:
    """Run the command line; every error that a user can cause ends in a line on standard error."""
    signal.signal(signal.SIGINT, _interrupt)
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        app()
    except IntegrumError as error:
        _stop(str(error))
    except BrokenPipeError:
        # the reader of standard output has had enough
        with contextlib.suppress(OSError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(1) from None
    except _Interrupted:
        _stop("interrupted; nothing was written", INTERRUPTED)


def _stop(message: str, status: int = NOTHING) -> NoReturn:
    sys.stderr.write(f"integrum: {message}\n")
    raise SystemExit(status)


class _Interrupted(BaseException):
    """Unwinds the run, so that it cleans up after itself."""


def _interrupt(number: int, frame: FrameType | None) -> NoReturn:  # noqa: ARG001
    raise _Interrupted
