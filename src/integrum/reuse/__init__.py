"""The run before: rows that are taken over from it, and what has changed since."""
