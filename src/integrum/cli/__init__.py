"""The command line."""

from __future__ import annotations


def main() -> None:
    """Run the command line."""
    from integrum.cli.app import run

    run()
