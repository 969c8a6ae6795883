"""What the names of sources say: identifiers, what is expected, names of outputs."""
