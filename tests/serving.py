"""The command line for tests, without the time that each process needs to start; see `served.py`."""

import json
import subprocess
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any


class Served:
    """The command line, as forks of one process that has imported what all commands need; see `served.py`."""

    def __init__(self) -> None:
        self._server: Any = None
        self._folder: Any = None

    def run(
        self, args: Sequence[str], cwd: object, env: Mapping[str, str], code: str = "", together: bool = False
    ) -> "subprocess.CompletedProcess[str]":
        """Run a command, or Python code with arguments; where `together`, its errors are among its output."""
        if self._server is None:
            self._folder = TemporaryDirectory()
            self._server = subprocess.Popen(
                [sys.executable, str(Path(__file__).parent / "served.py")],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                encoding="utf-8",
            )
        out, err = Path(self._folder.name) / "out", Path(self._folder.name) / "err"
        request = {
            "args": list(args),
            "cwd": str(cwd),
            "env": dict(env),
            "code": code,
            "out": str(out),
            "err": "" if together else str(err),
        }
        self._server.stdin.write(json.dumps(request) + "\n")
        self._server.stdin.flush()
        status = int(self._server.stdout.readline())
        said = [each.read_text(encoding="utf-8") for each in ((out,) if together else (out, err))]
        return subprocess.CompletedProcess(["integrum", *args], status, *said)

    def end(self) -> None:
        """End it."""
        if self._server is not None:
            self._server.stdin.close()
            self._server.wait()
            self._server.stdout.close()
            self._folder.cleanup()
            self._server = None


SERVED = Served()
