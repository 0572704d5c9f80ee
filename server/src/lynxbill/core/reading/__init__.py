"""From what came in to what counts. Imports change, record and the rooms below them."""
