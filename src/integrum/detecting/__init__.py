"""Guess the layout of a source from a bounded sample of it. Only surveys guess; a run follows the plan."""
