"""What is said of what is still to be done. Imports the rooms below: heat, money and base."""
