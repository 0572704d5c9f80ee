"""What is said of the results of a comparison. Imports base."""
