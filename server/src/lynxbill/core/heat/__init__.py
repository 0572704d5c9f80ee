"""Heat: from a trace to figures of a run. Phases, settled or not, equilibrium, sides laid over each other."""
