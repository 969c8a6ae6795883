"""Pages: templates, styles, small pictures; and sources and columns as pages show them."""
