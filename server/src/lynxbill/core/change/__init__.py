"""What differs between builds, and whether it fits. Imports record and the rooms below it."""
