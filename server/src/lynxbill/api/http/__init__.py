"""What holds for every request: errors, guards, events, dependencies. Imports wire."""
