"""From runs to verdicts. Imports plan, reading, record and the rooms below them."""
