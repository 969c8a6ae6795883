"""The run: rows of the table, made on a worker."""
