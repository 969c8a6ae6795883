"""One small module per output format."""
