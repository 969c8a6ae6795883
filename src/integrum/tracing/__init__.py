"""From a row of the table back to the file and the line that it came from."""
