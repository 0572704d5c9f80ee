"""What every service stands on: transactions, who acts, kept answers and tallies. Imports no other room."""
