"""The version of Integrum, for everything that states it."""

__version__ = "0.1.0"
