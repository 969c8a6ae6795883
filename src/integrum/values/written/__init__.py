"""How values are written by people and devices: what is read besides the canonical forms."""
