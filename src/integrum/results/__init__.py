"""What a run gave: read back from its record, looked at, opened as a data frame, traced to its lines."""
