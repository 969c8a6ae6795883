"""One small module per output format, and the way an output and its record appear together."""
