"""A source becomes pieces, and pieces become columns of text with row numbers."""
