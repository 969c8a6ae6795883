"""Pieces go out to the workers, and what they made comes back in order."""
