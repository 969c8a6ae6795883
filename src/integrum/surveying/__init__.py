"""Look at every source, and decide about the columns from their values."""
