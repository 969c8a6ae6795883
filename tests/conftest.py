"""What the tests share: a folder to write sources in, and the command line as a process."""

import os
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import gettempdir

import pytest

from serving import SERVED, Served

# each command is a process of its own: what these compile is kept, as that of an installed package is
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ.setdefault("PYTHONPYCACHEPREFIX", str(Path(gettempdir()) / f"integrum-compiled-{os.getuid()}"))
# `make test` tells its own steps what it was told; a make that a test runs is not one of them
for name in ("MAKEFLAGS", "MFLAGS", "MAKELEVEL"):
    os.environ.pop(name, None)


_LONG = """
abuse again again_problems cli damaged_records deciding dialects docs drafts edges engine
first_contact fuzz guesses layout measures names_guessed output own_files packed page parts planted
reading record remote report round_trips scale seal sure_or_said swap traces types values work
workbooks written written_workbooks
"""
# the files that take long; `pytest --fast` leaves them out
SLOW = frozenset(f"test_{name}" for name in _LONG.split())


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--fast", action="store_true", help="leave out the files that take long")


def pytest_ignore_collect(collection_path: Path, config: pytest.Config) -> bool | None:
    return True if config.getoption("--fast") and collection_path.stem in SLOW else None


class Folder:
    """A folder of sources."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def write(self, name: str, content: str | bytes) -> Path:
        target = self.path / name
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(content if isinstance(content, bytes) else content.encode())
        return target


@pytest.fixture
def folder(tmp_path: Path) -> Folder:
    (tmp_path / "in").mkdir()
    return Folder(tmp_path / "in")


Command = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture(scope="session", autouse=True)
def served() -> Iterator[Served]:
    yield SERVED
    SERVED.end()


@pytest.fixture
def integrum(tmp_path: Path, served: Served) -> Command:
    """Run the command line in the test's folder."""

    def run(*args: object, **more: object) -> "subprocess.CompletedProcess[str]":
        env = {**os.environ, "COLUMNS": "200", "NO_COLOR": "1"}
        return served.run(list(map(str, args)), more.get("cwd", tmp_path), env)

    return run
