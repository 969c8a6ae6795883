"""What the analyst decided: as frozen objects, and as TOML."""
