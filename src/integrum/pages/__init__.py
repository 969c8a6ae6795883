"""Pages that a browser shows: the templates, and how they are written."""
