"""Headers, identifiers, and how the columns of the plan are bound to them."""
