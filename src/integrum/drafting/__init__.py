"""From a survey to a plan: what is drafted, what is asked, and what a person has decided."""
