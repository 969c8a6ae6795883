"""What a notebook shows of surveys, drafts, outcomes and lists: compact tables of bounded height."""

import re

import pytest

import integrum as ig
from looking import browser, needs_browser


@pytest.fixture
def objects(folder, tmp_path) -> dict[str, object]:
    """Many of each, with long names."""
    for at in range(60):
        rows = "".join(f"{row},{row}.5,{'x' * 40}\n" for row in range(4))
        name = "depth" if at % 2 else "Depth"
        folder.write(
            f"{'lake_' * 12}{at:02}.csv", f"n,{name},a_rather_long_name_of_a_column_{at}\n{rows}bad\n"
        )
    draft = ig.draft(str(folder.path))
    outcome = ig.assemble(draft, tmp_path / "lakes.csv")
    return {
        "survey": draft.survey,
        "draft": draft,
        "questions": draft.questions,
        "outcome": outcome,
        "sources": outcome.sources,
        "problems": outcome.problems,
        "set aside": outcome.set_aside,
        "ledger": outcome.sources[0].ledger,
        "overview": ig.overview(tmp_path / "lakes.csv"),
        "trace": ig.trace(tmp_path / "lakes.csv", where="n >= 2"),
        "changes": ig.changes(tmp_path / "lakes.csv"),
        "verification": ig.verify(tmp_path / "lakes.csv"),
        "source": ig.look(next(iter(folder.path.glob("*00.csv")))),
        "page": draft.page(tmp_path / "lakes.toml"),
    }


@needs_browser
def test_all_of_it_can_be_read_at_900_pixels(objects) -> None:
    with browser() as started:
        page = started.new_page(viewport={"width": 900, "height": 800})
        for name, one in objects.items():
            page.set_content(f"<body style='margin: 20px'>{one._repr_html_()}</body>")
            wide, tall = page.evaluate(
                "[document.documentElement.scrollWidth, Math.max(0, ...[...document.querySelectorAll('.rows')]"
                ".map((one) => one.getBoundingClientRect().height))]"
            )
            assert wide <= 900, name
            assert tall <= 420, name
            whole = page.evaluate("document.querySelector('.integrum').getBoundingClientRect().height")
            assert whole <= (3_500 if name == "trace" else 2_200), (name, whole)


def test_lists_have_a_length_and_can_be_cut(objects) -> None:
    trace = objects["trace"]
    assert len(trace) == 5 and len(list(trace)) == 5
    assert trace[0] is trace.rows[0] and trace[1:3] == trace.rows[1:3]
    for name in ("questions", "sources", "problems", "set aside"):
        some = objects[name]
        assert len(some) == len(list(some))
        assert type(some[:2]) is type(some) and len(some[:2]) == min(len(some), 2)
    assert "<table>" in objects["ledger"]._repr_html_()
    assert re.search("data</td><td.*?>4<", objects["ledger"]._repr_html_())
    assert len(objects["sources"]) == 60
