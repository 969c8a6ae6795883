"""What is typed on the command line is held against what there is, before it is parsed: the nearest right word is named."""

from __future__ import annotations

import argparse
import re
from collections.abc import Iterator, Sequence

from integrum.plan.wrong_words import meant, nearest

# options for what is given without one
_PLACES = (
    "input",
    "in",
    "i",
    "source",
    "sources",
    "folder",
    "path",
    "paths",
    "files",
    "pattern",
    "glob",
    "include",
)
_NOTHING_WRITTEN = ("dry-run", "n", "dry", "simulate", "test")
_NUMBER = re.compile(r"-\d+|-\d*\.\d+")


def with_right_words(top: argparse.ArgumentParser, typed: Sequence[str]) -> list[str]:
    """Check the options that were typed, and understand `help`.

    Ends the command with a message where an option is not known, or is given twice and takes one value.
    """
    given = list(typed)
    if given and given[0] == "help":
        given = [*given[1:2], "--help"]
    commands = commands_of(top)
    if given and given[0].startswith("-") and given[0].partition("=")[0] not in top._option_string_actions:
        top.error(f"give a command before the options: {', '.join(commands)}")
    if not given or given[0] not in commands:
        return given
    parser = commands[given[0]]
    options = {name: one for one in parser._actions for name in one.option_strings}
    often: dict[str, int] = {}
    for typed_option in _options_in(given[1:]):
        if typed_option not in options:
            parser.error(f"unknown option {typed_option}{_instead(given[0], typed_option, list(options))}")
        one = options[typed_option]
        often[one.dest] = often.get(one.dest, 0) + 1
        if often[one.dest] > 1 and isinstance(one, argparse._StoreAction):
            parser.error(f"{typed_option} is given {often[one.dest]} times, and takes one value")
    return given


def commands_of(top: argparse.ArgumentParser) -> dict[str, argparse.ArgumentParser]:
    """The commands by name."""
    return {
        name: parser
        for one in top._actions
        if isinstance(one, argparse._SubParsersAction)
        for name, parser in one.choices.items()
    }


def _options_in(typed: Sequence[str]) -> Iterator[str]:
    """What argparse takes for options."""
    for each in typed:
        if each == "--":
            return
        if each.startswith("-") and each != "-" and " " not in each and not _NUMBER.fullmatch(each):
            yield each.partition("=")[0]


def _instead(command: str, option: str, options: Sequence[str]) -> str:
    """What was likely meant, as the end of a message."""
    bare = option.lstrip("-")
    long = [one for one in options if one.startswith("--")]
    if near := meant(option, long, loosely=False):
        return near
    if bare in _PLACES:
        return f"; folders, patterns and files are given without an option: integrum {command} FOLDER"
    if bare in _NOTHING_WRITTEN:
        return "; integrum survey looks at everything and writes nothing"
    return _in_a_plan(bare) or nearest(option, long, 0.7)


def _in_a_plan(bare: str) -> str:
    """Where a plan says what is no option."""
    from dataclasses import fields

    from integrum.plan.column import Column
    from integrum.plan.layout import Layout
    from integrum.plan.model import home_of

    keys = [each.name for kind in (Layout, Column) for each in fields(kind)]
    key = bare.replace("-", "_")
    if key not in keys:
        found = re.search(r'"(.*)"', meant(key, keys, loosely=False)) if len(key) > 1 else None
        key = found[1] if found else ""
    home = home_of(key, "sources[1]") if key else ""
    return home.replace("it belongs in", f"a plan says it, with the key {key} in") if home else ""
