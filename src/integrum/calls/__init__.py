"""The Python calls, one file for each."""
