"""`python -m integrum` is the command line."""

from integrum.cli import main

main()
