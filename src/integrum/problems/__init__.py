"""What is found: codes, problems, like ones together, what is lost."""
