"""What the evidence says: comparisons, bills, reports, Home. Imports evidence and the rooms below."""
