"""A folder for an archive: a table with its record, its codebook, its plan and, if wished, its sources."""
