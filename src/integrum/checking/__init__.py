"""Checks of the table, in the pass that makes it; a file for each kind."""
