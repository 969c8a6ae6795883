"""Every text that the code can show to a reader: messages, hints, help, titles.

``python tests/message_list.py`` writes them to ``tests/messages.txt``; a test compares the two.
So a new message is read before it is kept.
"""

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parent.parent
SOURCE, LIST = ROOT / "src" / "integrum", ROOT / "tests" / "messages.txt"
# words that the guesses know, months, the names of weights: no messages
VOCABULARIES = (
    "detecting/vocabulary.py", "columns/names/words.py", "columns/names/weights.py",
    "values/written/absent.py", "plan/wrong_words.py", "values/written/times.py", "values/written/formats.py",
    "values/cells.py", "problems/notebook.py", "demo/lakes.py", "demo/gauges.py", "demo/workbooks.py",
)  # fmt: skip


@cache
def messages() -> list[str]:
    """The texts, file by file; what is filled in is written ``{}``."""
    lines = []
    for path in sorted(SOURCE.rglob("*.py")):
        name = path.relative_to(SOURCE).as_posix()
        if name not in VOCABULARIES:
            lines += [
                f"{name}: {text}"
                for text in dict.fromkeys(_texts(ast.parse(path.read_text(encoding="utf-8"))))
            ]
    return lines


def _texts(tree: ast.Module) -> Iterator[str]:
    inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            inside.add(id(node.value))  # a docstring
        if (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr == "compile"
        ):
            inside |= {id(part) for part in ast.walk(node)}  # a regular expression
    for node in ast.walk(tree):
        if id(node) in inside:
            continue
        text = ""
        if isinstance(node, ast.JoinedStr):
            text = "".join(part.value if isinstance(part, ast.Constant) else "{}" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            text = node.value
        if " " in text.strip() and len(re.findall(r"[A-Za-z]{2,}", text)) > 1:
            yield text.replace("\n", "⏎")


if __name__ == "__main__":
    LIST.write_text("\n".join(messages()) + "\n", encoding="utf-8")
