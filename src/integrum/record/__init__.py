"""The format of a record: its files as lists of columns, written and read."""
