"""Which names of many sources mean the same column: what is certain, and guesses with their evidence."""
