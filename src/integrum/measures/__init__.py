"""What a run finds out about its rows: a file for each measure and each family of checks."""
