"""Serves commands to the tests: what each of them needs to import is imported once, and each is a fork of this process.

A command is a process of its own, with its own arguments, folder, environment, output and exit status; only its start is
shared. It reads a request in JSON from each line of its input, and answers with the exit status.
"""

import importlib
import json
import os
import pkgutil
import runpy
import sys
import tempfile
import threading
from typing import Any

# what commands look at when they are imported is not imported before they are there
_LATER = ("integrum.cli", "integrum.__main__", "integrum.reporting", "integrum.problems.notebook")


def import_all() -> None:
    """Import the package but for its command line, and the libraries that it is made of."""
    import integrum

    for found in pkgutil.walk_packages(integrum.__path__, "integrum."):
        if not found.name.startswith(_LATER):
            importlib.import_module(found.name)


def be(request: dict[str, Any]) -> None:
    """Be the command; never comes back."""
    status = 1
    try:
        os.chdir(request["cwd"])
        os.environ.clear()
        os.environ.update(request["env"])
        tempfile.tempdir = None
        null = os.open(os.devnull, os.O_RDONLY)
        out = os.open(request["out"], os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
        err = os.open(request["err"], os.O_WRONLY | os.O_CREAT | os.O_TRUNC) if request["err"] else out
        for at, file in enumerate((null, out, err)):
            os.dup2(file, at)
        sys.stdin = open(0, encoding="utf-8", closefd=False)  # noqa: SIM115
        sys.stdout = open(1, "w", encoding="utf-8", closefd=False)  # noqa: SIM115
        sys.stderr = open(2, "w", encoding="utf-8", buffering=1, errors="backslashreplace", closefd=False)  # noqa: SIM115
        sys.argv = ["integrum", *request["args"]]
        try:
            if request["code"]:
                exec(compile(request["code"], "<code>", "exec"), {"__name__": "__main__"})
            else:
                runpy.run_module("integrum", run_name="__main__", alter_sys=True)
            status = 0
        except SystemExit as ended:
            status = ended.code if isinstance(ended.code, int) else int(ended.code is not None)
            if isinstance(ended.code, str):
                print(ended.code, file=sys.stderr)
        threading._shutdown()  # type: ignore[attr-defined]
        import atexit

        atexit._run_exitfuncs()
    except BaseException:
        import traceback

        traceback.print_exc()
    finally:
        try:
            sys.stdout.flush()
            sys.stderr.flush()
        finally:
            os._exit(status)


def serve() -> None:
    """Fork for each request."""
    import_all()
    for line in sys.stdin:
        child = os.fork()
        if not child:
            be(json.loads(line))
        _, status = os.waitpid(child, 0)
        sys.stdout.write(f"{os.waitstatus_to_exitcode(status)}\n")
        sys.stdout.flush()


if __name__ == "__main__":
    serve()
