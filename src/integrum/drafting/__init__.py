"""From a survey to a plan."""
