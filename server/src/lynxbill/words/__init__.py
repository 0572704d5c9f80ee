"""Results as they are said: sentences and shown figures, from the core's results alone."""
