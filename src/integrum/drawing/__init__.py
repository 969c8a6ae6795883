"""Figures; matplotlib is loaded only when one is drawn."""
