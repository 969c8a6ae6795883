"""Look at every source: headers, types, the odd ones out."""
