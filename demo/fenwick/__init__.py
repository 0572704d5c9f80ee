"""Fenwick Map Room, a small map-printing workshop: its machines, made up."""
