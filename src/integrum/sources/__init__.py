"""Which files and sheets are sources, and their order."""
