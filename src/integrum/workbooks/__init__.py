"""Workbooks as text: what a file truly is, which sheets it has, and the cells of a sheet as CSV."""
