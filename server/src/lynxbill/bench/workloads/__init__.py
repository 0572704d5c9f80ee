"""Workloads of our own, one module each."""
