"""Where work is done: threads, processes, a cluster; and how far it has come."""
