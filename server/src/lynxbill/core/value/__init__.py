"""Money, made after the comparison and from it. Imports every other room."""
