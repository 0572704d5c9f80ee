"""What is said of bills, accounts and ways to spend money. Imports results and base."""
