"""Each source once through inspection, admission and the workers; survey and run both stand on it."""
