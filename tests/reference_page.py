"""The reference in docs/python.md and docs/plan.md, made from the code: python tests/reference_page.py writes it.

The pages are plain Markdown, so that they can be read on a code host as they are.
"""

import ast
import inspect
import re
import textwrap
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import integrum as ig
from integrum import errors
from integrum.results.table_access import TableAccess

DOCS = Path(__file__).parent.parent / "docs"
MADE = "<!-- what follows is made from the code by tests/reference_page.py -->"
CALLS = [
    "survey",
    "look",
    "draft",
    "assemble",
    "changes",
    "verify",
    "script",
    "trace",
    "overview",
    "report",
    "deposit",
    "open_table",
    "read_record",
    "read_plan",
    "parse_plan",
    "write_plan",
    "merge_plan",
]
GIVEN_BACK = [
    "Outcome",
    "StoredTable",
    "TableAccess",
    "Survey",
    "ColumnSurvey",
    "Draft",
    "OpenGuess",
    "Question",
    "Settled",
    "DraftPage",
    "Record",
    "Changes",
    "SourceChange",
    "CellChange",
    "NewHeader",
    "Verification",
    "Verified",
    "Lost",
    "Loss",
    "SourceSummary",
    "Ledger",
    "ColumnEntry",
    "LeftOutRow",
    "SetAside",
    "Problem",
    "Entries",
    "Progress",
    "Meter",
]
KEYS = [
    "Plan",
    "Sources",
    "Layout",
    "Column",
    "Also",
    "Maybe",
    "Alike",
    "Wide",
    "Dataset",
    "Person",
    "Provenance",
    "Rules",
    "Check",
]
_SECTION = re.compile(r"^(\w+(?: \w+)?)\n-{3,}\n", re.MULTILINE)
_WIDE = 100


def python_page() -> str:
    """The whole page about Python."""
    parts = [
        "# Python reference",
        "`import integrum as ig`; everything below is in `ig`. Objects that are made by a plan are on the page about "
        "[the plan](plan.md).",
        MADE,
        "## Calls",
        *(part for name in CALLS for part in described(name, getattr(ig, name))),
        "## What they give back",
        *(part for name in GIVEN_BACK for part in described(name, _found(name), is_called=False)),
        "## Errors",
        *_text(inspect.cleandoc(errors.__doc__ or "")),
    ]
    return "\n\n".join(parts) + "\n"


def plan_page() -> str:
    """The page about the plan with its last section."""
    text = (DOCS / "plan.md").read_text(encoding="utf-8")
    before = text[: text.index(MADE)] + MADE
    return "\n\n".join([before, *(part for name in KEYS for part in described(name, _found(name)))]) + "\n"


def _found(name: str) -> Any:
    return TableAccess if name == "TableAccess" else getattr(ig, name)


def described(name: str, what: Any, is_called: bool = True) -> Iterator[str]:
    """A call or a class: how it is written, and what its docstring says."""
    yield f"### {name}"
    if is_called:
        yield f"```text\n{signature(name, what)}\n```"
    doc = inspect.cleandoc(what.__doc__ or "")
    parts = _SECTION.split(doc)
    yield from _text(parts[0])
    for title, body in zip(parts[1::2], parts[2::2], strict=True):
        if title == "Examples":
            yield f"```pycon\n{body.strip()}\n```"
        else:
            yield f"*{title}*"
            yield "\n".join(_entries(body))
    if inspect.isclass(what) and not {"Parameters", "Attributes"} & set(parts[1::2]):
        fields = list(_fields(what))
        if fields:
            yield "*Attributes*"
            yield "\n".join(fields)
    if inspect.isclass(what):
        methods = list(_methods(what))
        if methods:
            yield "*Methods and properties*"
            yield "\n".join(methods)


def signature(name: str, what: Any) -> str:
    """How it is called, with a line for each argument where one line is too long."""
    try:
        made = inspect.signature(what)
    except ValueError:
        return name
    said = [
        re.sub(r" = <factory>", " = ...", str(one)) for one in made.parameters.values() if one.name != "self"
    ]
    kinds = [one.kind for one in made.parameters.values() if one.name != "self"]
    first = next((at for at, kind in enumerate(kinds) if kind is inspect.Parameter.KEYWORD_ONLY), None)
    if first is not None and inspect.Parameter.VAR_POSITIONAL not in kinds:
        said.insert(first, "*")
    said = [re.sub(r": '([^']*)'", r": \1", each) for each in said]
    back = made.return_annotation
    end = (
        "" if inspect.isclass(what) or back is inspect.Signature.empty else f" -> {str(back).strip(chr(39))}"
    )
    line = f"{name}({', '.join(said)}){end}"
    return (
        line if len(line) <= _WIDE else f"{name}(\n" + "".join(f"    {each},\n" for each in said) + f"){end}"
    )


def _text(text: str) -> Iterator[str]:
    """Paragraphs; lines that are indented stay as they are."""
    for part in re.split(r"\n\n+", text.strip()):
        if part.startswith("    "):
            yield f"```text\n{textwrap.dedent(part)}\n```"
        elif part:
            yield _marked(" ".join(part.split()))


def _marked(text: str) -> str:
    return (
        text.replace("``", "`").replace("*", r"\*")
        if "*" in text and "`" not in text
        else text.replace("``", "`")
    )


def _entries(body: str) -> Iterator[str]:
    """The entries of a section as a list."""
    name, said = "", list[str]()
    for line in [*body.strip("\n").split("\n"), ""]:
        if line.startswith("    ") or not line.strip():
            said.append(line.strip())
            continue
        if name:
            yield f"- `{name}`: {_marked(' '.join(filter(None, said)))}".rstrip(": ")
        name, said = line.strip(), []
    if name:
        yield f"- `{name}`: {_marked(' '.join(filter(None, said)))}".rstrip(": ")


def _fields(what: type) -> Iterator[str]:
    """The fields of a class that says what they are in comments."""
    lines = inspect.getsource(what).split("\n")
    (node,) = ast.parse(textwrap.dedent("\n".join(lines))).body
    assert isinstance(node, ast.ClassDef)
    for each in node.body:
        if not (isinstance(each, ast.AnnAssign) and isinstance(each.target, ast.Name)):
            continue
        behind = re.search(r"  # (.*)$", lines[(each.end_lineno or 1) - 1])
        above, at = list[str](), each.lineno - 2
        while lines[at].strip().startswith("# "):
            above.insert(0, lines[at].strip()[2:])
            at -= 1
        said = behind[1] if behind else " ".join(above)
        if not each.target.id.startswith("_"):
            yield f"- `{each.target.id}`: {_marked(said)}".rstrip(": ")


def _methods(what: type) -> Iterator[str]:
    for name, one in vars(what).items():
        if name.startswith("_") or not (inspect.isfunction(one) or isinstance(one, (property, classmethod))):
            continue
        plain = one.fget if isinstance(one, property) else getattr(one, "__func__", one)
        first = inspect.cleandoc(getattr(plain, "__doc__", "") or "").split("\n\n")[0]
        if first:
            call = name if isinstance(one, property) else f"{name}({_arguments(plain)})"
            yield f"- `{call}`: {_marked(' '.join(first.split()))}"


def _arguments(function: Any) -> str:
    return ", ".join(name for name in inspect.signature(function).parameters if name not in ("self", "cls"))


def pages() -> dict[Path, str]:
    """The pages as they should be."""
    return {DOCS / "python.md": python_page(), DOCS / "plan.md": plan_page()}


if __name__ == "__main__":
    for path, text in pages().items():
        path.write_text(text, encoding="utf-8")
