"""The format of a record: its tables, run.json, hashes."""
