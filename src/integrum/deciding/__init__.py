"""From what the values of a column look like in all sources to its type, its missing codes and how they are written."""
