"""What is said of heat, and of a run while it lasts. Imports results and base."""
