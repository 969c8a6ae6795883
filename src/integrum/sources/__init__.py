"""Which files are sources, in which order, and who they are."""
