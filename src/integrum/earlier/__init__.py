"""What an earlier run has left: whether it can be built on, and what of it still holds."""
