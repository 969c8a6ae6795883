"""Arrow arrays, and columns as lines of CSV."""
