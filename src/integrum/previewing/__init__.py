"""What a page shows of sources and columns, before a run and after it."""
