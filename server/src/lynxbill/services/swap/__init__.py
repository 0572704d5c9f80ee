"""The swap: planned, begun, worked on and closed. Imports frame and base."""
