"""The project's own files: nothing in them was written by a run."""

import subprocess
from pathlib import Path

from integrum.record.run_file import MARK, NAME

ROOT = Path(__file__).parent.parent
# a record of an earlier schema, which a test reads
KEPT = Path("tests/records")


def tracked() -> list[Path]:
    """The files of the project; without git all but what begins with a point or is made by the Makefile."""
    listed = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, check=False)
    if listed.returncode == 0:
        return [Path(name) for name in listed.stdout.decode().split("\0") if name and (ROOT / name).exists()]
    made = {"demo-lakes", "site", "build", "dist"}
    every = (path.relative_to(ROOT) for path in ROOT.rglob("*") if path.is_file())
    return [path for path in every if not any(part.startswith(".") or part in made for part in path.parts)]


def test_the_project_has_nothing_that_a_run_wrote() -> None:
    files = [path for path in tracked() if KEPT not in path.parents]
    assert any(path.name == "pyproject.toml" for path in files)
    left = [path for path in files if path.name == NAME and MARK in (ROOT / path).read_text()]
    left += [path for path in files if path.name.startswith("part-") or path.name.endswith("-metadata.json")]
    left += [path for path in files if path.suffix in (".parquet", ".arrow", ".xlsx")]
    assert not left
