"""`python -m integrum` is the command line."""

from integrum.cli import main

if __name__ == "__main__":  # not in the processes that do work for it
    main()
