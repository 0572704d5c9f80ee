"""The bench agent: pairing, its jobs and what it brings. Imports evidence and the rooms below."""
