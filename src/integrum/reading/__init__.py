"""From a source to batches of text columns with their row numbers."""
