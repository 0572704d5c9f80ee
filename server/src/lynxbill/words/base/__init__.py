"""How figures, changes and conditions are written. Imports no other room."""
