"""Pure computation: readings in, verdicts and bills out. No clock, file, log or storage."""
