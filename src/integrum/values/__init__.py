"""From text to typed values, and what could not be; columns of text in memory."""
