"""Made-up data: monitoring of invented lakes."""
