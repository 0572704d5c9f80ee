"""A router a noun. Imports http and wire."""
