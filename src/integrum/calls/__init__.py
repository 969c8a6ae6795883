"""The Python calls: survey, look, draft, assemble."""
