"""One page about a run, made from its record alone."""
