"""Which names mean the same column: what is certain, and guesses from weighed evidence."""
