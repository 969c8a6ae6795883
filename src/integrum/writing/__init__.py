"""A module for each format of outputs."""
