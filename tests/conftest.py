"""What the tests share: a folder to write sources in, and the command line as a process."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from tempfile import gettempdir

import pytest

# each command is a process of its own: what these compile is kept, as that of an installed package is
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ.setdefault("PYTHONPYCACHEPREFIX", str(Path(gettempdir()) / f"integrum-compiled-{os.getuid()}"))


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


@pytest.fixture
def integrum(tmp_path: Path) -> Command:
    """Run the command line in the test's folder."""

    def run(*args: object, **more: object) -> "subprocess.CompletedProcess[str]":
        return subprocess.run(
            [sys.executable, "-m", "integrum", *map(str, args)],
            capture_output=True,
            encoding="utf-8",
            cwd=more.get("cwd", tmp_path),
            env={**os.environ, "COLUMNS": "200", "NO_COLOR": "1"},
            timeout=120,
            check=False,
        )

    return run
