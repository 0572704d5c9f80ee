"""Before measuring: how much, in which order, and what is still missing. Imports reading and the rooms below it."""
