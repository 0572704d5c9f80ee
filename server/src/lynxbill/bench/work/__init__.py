"""The agent's workloads, one kind of work a module."""
