"""What a run finds out about its rows and sources: a file for each thing, and one list of them."""
