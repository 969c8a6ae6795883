"""The record of a run: written, swapped into place with its outputs, and read back."""
