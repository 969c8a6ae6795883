"""Record and outputs are written, and swapped into their places together."""
