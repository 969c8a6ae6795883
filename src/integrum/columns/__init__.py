"""Header names and the plan's columns."""
