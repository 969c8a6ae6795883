"""Words that people use for what has another name here, and the right one for each."""

from __future__ import annotations

import difflib
import inspect
import re
from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any, TypeVar

AnyCallable = TypeVar("AnyCallable", bound=Callable[..., Any])
AnyClass = TypeVar("AnyClass", bound=type)

# the right words, and what else people call the same; a wrong word may stand in several lines
_MEANT = (
    # commands and calls
    ("assemble", "merge stack combine concat concatenate join append union collect consolidate harmonise harmonize run"),
    ("assemble", "build make convert write export import load read collate pool unite compile"),
    ("survey", "scan inspect explore profile list info detect analyse analyze look-at files check-files"),
    ("draft", "plan new start config configure guess infer propose suggest template create edit"),
    ("changes", "compare status news difference differences since"),
    ("verify", "check validate hash audit test prove confirm checksum"),
    ("script", "python code generate"),
    ("trace", "where find origin source lineage provenance row rows follow locate"),
    ("overview", "summary summarise summarize preview view show print describe stats statistics look"),
    ("report", "html page archive deposit codebook methods document publish"),
    ("demo", "example examples tutorial tour try sample data"),
    # options and arguments
    ("to", "output out outfile output-file dest destination target save save-as o result"),
    ("where", "filter query condition select if"),
    ("exclude", "ignore skip omit without not drop"),
    ("replace", "force overwrite f y yes"),
    ("ids", "id identifiers identifier names scheme pattern columns-from-names filename add from-name keys"),
    ("sheets", "sheet sheet-name sheetname tab tabs worksheet worksheets"),
    ("workers", "jobs j threads cores parallel processes cpus"),
    ("most", "n limit max count rows first"),
    ("page", "html web browser gui"),
    ("stop-at-first", "stop first-error"),
    ("accept", "yes auto threshold score"),
    ("ask", "interactive i prompt"),
    ("json", "machine format output-format"),
    ("quiet", "q silent"),
    ("verbose", "v debug log"),
    ("update", "append add refresh onto merge"),
    ("only-add", "append append-only"),
    ("afresh", "full rebuild again"),
    ("deposit", "archive bag export zip"),
    ("column", "columns field"),
    ("columns", "fields select keep"),
    ("within", "group groups by per each"),
    ("expect", "count n number expected"),
    ("allow-code", "unsafe trust code"),
    ("record", "log documentation"),
    # keys and fields
    ("find", "path paths files folder input inputs pattern glob include source sources where from"),
    ("type", "kind datatype class types"),
    ("also", "alias aliases synonyms other names headers renamed rename"),
    ("missing", "null nulls missing_values no_data nodata codes"),
    ("zone", "timezone time_zone"),
    ("unit", "units measure"),
    ("description", "label comment title text"),
    ("values", "map mapping recode replace categories"),
    ("header_row", "header skip header_line row names_row"),
    ("footer_from", "footer end end_at"),
    ("delimiter", "sep separator delim"),
    ("decimal_mark", "decimal decimal_point"),
    ("thousands_mark", "thousands grouping"),
    ("comment_mark", "comment comments"),
    ("encoding", "charset codec"),
    ("capture", "metadata preamble facts meta"),
    ("constants", "constant fixed values add"),
    ("people", "persons authors author creators contributors"),
    ("license", "licence rights terms"),
    ("unlisted", "extra unknown others extra_columns"),
    ("bad_values", "errors on_error invalid bad"),
    ("required", "mandatory needed"),
    ("optional", "may_lack"),
    ("unique", "key keys distinct"),
    ("range", "between min max limits bounds"),
    ("allowed", "values one_of categories choices"),
    ("match", "pattern regex regexp"),
    ("listed", "lookup reference in"),
    # types
    ("number", "float double decimal real numeric money currency"),
    ("integer", "int long whole count"),
    ("text", "string object category categorical factor character"),
    ("boolean", "bool logical flag yesno"),
    ("datetime", "timestamp date-time instant moment"),
    ("date", "day"),
    ("month", "period yearmonth"),
    ("time", "clock hour"),
    # rules
    ("blank", "null empty missing none"),
    ("set-row-aside", "drop skip remove row"),
    ("set-source-aside", "fail source file"),
    ("leave-out", "drop ignore skip remove"),
    ("keep", "add include all"),
    ("refuse", "error fail raise reject"),
    ("report", "warn tell"),
    ("set-aside", "drop skip remove"),
)  # fmt: skip


def nearest(word: str, words: Iterable[str], least: float = 0.6) -> str:
    """Say which of the words was likely meant, as the end of a message.

    Examples
    --------
    >>> nearest("colums", ["sources", "columns"])
    '; did you mean "columns"?'
    """
    close = difflib.get_close_matches(word, list(words), n=1, cutoff=least)
    return f'; did you mean "{close[0]}"?' if close else ""


def meant(word: str, words: Iterable[str], loosely: bool = True) -> str:
    """Say which of the words was likely meant, by spelling or else by meaning, as the end of a message.

    `loosely`: also where the spelling is only somewhat alike.

    Examples
    --------
    >>> meant("asemble", ["survey", "assemble"]), meant("concat", ["survey", "assemble"])
    ('; did you mean "assemble"?', '; did you mean "assemble"?')
    >>> meant("--output", ["--to", "--record"]), meant("colour", ["--to"])
    ('; did you mean "--to"?', '')
    """
    known = list(words)
    bare = {_bare(each): each for each in reversed(known)}
    wanted = _bare(word)
    near = nearest(word, known, 0.8)
    if near:
        return near
    for right, others in _MEANT:
        if right.replace("-", "_") in bare and wanted in others.replace("-", "_").split():
            return f'; did you mean "{bare[right.replace("-", "_")]}"?'
    return nearest(word, known) if loosely else ""


def _bare(word: str) -> str:
    return word.lstrip("-").rstrip("_").replace("-", "_").lower()


def answers_wrong_words(function: AnyCallable, shown: str = "") -> AnyCallable:
    """Decorate a function to suggest the right argument for one that it does not have.

    `shown`: the name of the function in the message, where that is not its own.

    Examples
    --------
    >>> @answers_wrong_words
    ... def assemble(what, *, to=None): ...
    >>> assemble("loggers", output="lakes.csv")
    Traceback (most recent call last):
    ...
    TypeError: assemble() got an unexpected keyword argument 'output'; did you mean "to"?
    """
    names = [name for name in inspect.signature(function).parameters if name != "self"]

    @wraps(function)
    def answering(*args: Any, **given: Any) -> Any:
        try:
            return function(*args, **given)
        except TypeError as error:
            found = re.fullmatch(r"(.*) got an unexpected keyword argument '(\w+)'.*", str(error))
            if found is None or found[2] not in given or found[2] in names:
                raise
            said = (
                f"{shown or found[1]} got an unexpected keyword argument '{found[2]}'{meant(found[2], names)}"
            )
        raise TypeError(said)

    return answering  # type: ignore[return-value]


def fields_answer(kind: AnyClass) -> AnyClass:
    """Decorate a class to suggest the right field for one that it does not have.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> Column("depth", kind="number")
    Traceback (most recent call last):
    ...
    TypeError: Column() got an unexpected keyword argument 'kind'; did you mean "type"?
    """
    kind.__init__ = answers_wrong_words(kind.__init__, f"{kind.__name__}()")  # type: ignore[misc]
    return kind
