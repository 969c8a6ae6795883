"""Places that are not on this machine, reached through fsspec: addresses, who may come in, reading, listing, writing."""
